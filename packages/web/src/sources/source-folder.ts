/** One file of a folder that the user gave. */
export interface SourceFile {
  /** Names from the folder down, joined by `/`. */
  readonly path: string;
  read(): Promise<string>;
}

/** Files of a folder that the user gave; `isCut` when there were more than are looked through. */
export interface SourceFolder {
  readonly name: string;
  readonly files: readonly SourceFile[];
  readonly isCut: boolean;
}

/** A larger folder is no source folder: it is looked through so far. */
const MOST_FILES = 40_000;
/** Folders that hold no code of the user's. */
const LEFT_OUT = new Set(['node_modules', '.git', '.hg', '.svn', '.cache', '__pycache__']);

/** Lists a folder that was opened with the browser's own dialog or dropped. Files are read when they are wanted. */
export async function folderOfHandle(handle: FileSystemDirectoryHandle): Promise<SourceFolder> {
  const files: SourceFile[] = [];
  const open: { readonly folder: FileSystemDirectoryHandle; readonly path: string }[] = [{ folder: handle, path: '' }];
  for (let at = open.pop(); at !== undefined && files.length < MOST_FILES; at = open.pop()) {
    for await (const entry of at.folder.values()) {
      const path = at.path === '' ? entry.name : `${at.path}/${entry.name}`;
      if (entry.kind === 'directory') {
        if (!LEFT_OUT.has(entry.name)) open.push({ folder: entry as FileSystemDirectoryHandle, path });
      } else if (files.length < MOST_FILES)
        files.push({ path, read: async () => (await (entry as FileSystemFileHandle).getFile()).text() });
    }
  }
  return { name: handle.name, files, isCut: files.length >= MOST_FILES };
}

/** The files of a folder that was chosen in a file field. */
export function folderOfFiles(chosen: readonly File[]): SourceFolder {
  const files: SourceFile[] = [];
  let name = '';
  for (const file of chosen) {
    const [top = '', ...names] = file.webkitRelativePath.split('/');
    name = top;
    if (names.length > 0 && !names.some((each) => LEFT_OUT.has(each)) && files.length < MOST_FILES)
      files.push({ path: names.join('/'), read: () => file.text() });
  }
  return { name, files, isCut: files.length >= MOST_FILES };
}
