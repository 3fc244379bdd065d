/** More files than this in a folder are not the logs of a program. */
const MOST_FILES = 2000;

/**
 * The files that were dropped, those of dropped folders and of folders in them included, in the order of their names;
 * hidden ones are left out. To be called while the drop is told: what it holds is gone after that.
 *
 * @throws when a folder holds more than 2,000 files.
 */
export async function droppedFiles(items: Iterable<DataTransferItem>): Promise<File[]> {
  const entries = Array.from(items, (item) => item.webkitGetAsEntry?.() ?? item.getAsFile());
  const files: File[] = [];
  for (const entry of entries) {
    if (entry instanceof File) files.push(entry);
    else if (entry !== null) await gather(entry, files);
  }
  return files;
}

async function gather(entry: FileSystemEntry, files: File[]): Promise<void> {
  if (entry.isFile) {
    files.push(await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)));
    if (files.length > MOST_FILES)
      throw new Error(
        `expected a folder of logs, found more than ${MOST_FILES.toLocaleString('en')} files: drop the files themselves`,
      );
    return;
  }
  const inside = await entriesOf(entry as FileSystemDirectoryEntry);
  inside.sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
  for (const each of inside) if (!each.name.startsWith('.')) await gather(each, files);
}

// A folder is read in pieces, until a piece is empty.
async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const piece = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (piece.length === 0) return all;
    all.push(...piece);
  }
}
