/** How the workspace shares the room there is. Pixels of the page, so that zoom counts as less room. */

const SMALL_WIDTH = 760;
const [LOW, HIGH] = [560, 960];

/** True where the rail and the drawer stand over the view instead of beside it, as at 200 % zoom. */
export function isSmall(width: number): boolean {
  return width <= SMALL_WIDTH;
}

/** Height of the ribbon in a page of a height. */
export function ribbonHeight(pageHeight: number): number {
  if (pageHeight <= LOW) return 118;
  return pageHeight >= HIGH ? 250 : 218;
}
