/** A wall clock as lists tell it: `29 Nov, 19:04`. */
export const when = (epochMs: number): string =>
  new Date(epochMs).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
