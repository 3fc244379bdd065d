/** True when every word of the find field is in the site's function or place. */
export function matchesFind(site: { readonly functionName: string; readonly place: string; readonly type: string | null }, find: string | null): boolean {
  const text = `${site.functionName} ${site.place} ${site.type ?? ''}`.toLowerCase();
  return (find ?? '').toLowerCase().split(/\s+/).every((word) => text.includes(word));
}
