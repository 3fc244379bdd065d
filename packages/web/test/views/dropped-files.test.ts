import { droppedFiles } from '../../src/home/dropped-files.ts';

interface Tree {
  readonly [name: string]: Tree | string;
}

function entryOf(name: string, content: Tree | string): FileSystemEntry {
  if (typeof content === 'string')
    return { isFile: true, name, file: (got: (file: File) => void) => got(new File([content], name)) } as never;
  return {
    isFile: false,
    name,
    createReader: () => {
      // A browser gives a folder in pieces, and an empty one at the end.
      const left = Object.entries(content).map(([inner, each]) => entryOf(inner, each));
      return { readEntries: (got: (entries: FileSystemEntry[]) => void) => got(left.splice(0, 2)) };
    },
  } as never;
}

const dropped = (name: string, content: Tree | string): DataTransferItem =>
  ({ webkitGetAsEntry: () => entryOf(name, content) }) as never;

test('a folder is its files and those of its folders, in the order of their numbers, hidden ones left out', async () => {
  const week = {
    'gc.log.10': 'ten',
    'gc.log.2': 'two',
    '.git': { HEAD: 'main' },
    '.hidden': 'no',
    older: { 'gc.log.1.gz': 'one', empty: {} },
  };
  const files = await droppedFiles([dropped('week', week), dropped('now.log', 'now')]);
  expect(files.map(({ name }) => name)).toEqual(['gc.log.2', 'gc.log.10', 'gc.log.1.gz', 'now.log']);
});

test('a folder of a whole program is refused, and said why', async () => {
  const many = Object.fromEntries(Array.from({ length: 2001 }, (_, at) => [`file${at}`, 'x']));
  await expect(droppedFiles([dropped('program', many)])).rejects.toThrow(
    /expected a folder of logs, found more than 2,000/,
  );
});
