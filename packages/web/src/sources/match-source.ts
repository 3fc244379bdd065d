import type { SourceFile, SourceFolder } from './source-folder.ts';

/**
 * Files of a folder that may be the one a frame names: those whose names agree longest from the end, alike ones in
 * order of their paths.
 */
export function matchSource(folder: SourceFolder, frameFile: string): readonly SourceFile[] {
  const wanted = namesOf(frameFile);
  if (wanted.length === 0) return [];
  let most = 0;
  let found: SourceFile[] = [];
  for (const file of folder.files) {
    const names = namesOf(file.path);
    let alike = 0;
    while (
      alike < wanted.length &&
      alike < names.length &&
      wanted[wanted.length - 1 - alike] === names[names.length - 1 - alike]
    )
      alike++;
    if (alike === 0 || alike < most) continue;
    if (alike > most) found = [];
    most = alike;
    found.push(file);
  }
  return found.sort((a, b) => a.path.length - b.path.length || (a.path < b.path ? -1 : 1));
}

// `file:///srv/tide/alerts.js?v=2` as `srv`, `tide`, `alerts.js`; a part of an address that is none of a path says
// nothing.
function namesOf(address: string): string[] {
  const path = address
    .replace(/^[a-z][a-z0-9+.-]*:\/*/i, '')
    .replace(/[?#].*$/, '')
    .replaceAll('\\', '/');
  return decoded(path)
    .split('/')
    .filter((name) => name !== '' && name !== '.' && name !== '..');
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
