/** What a file belongs to: a dependency, a package of classes, a part of the runtime, or a folder of one's own. */
export function packageName(file: string): string {
  if (file === '') return 'the runtime';
  const module = /^.*\/node_modules\/((?:@[^/]+\/)?[^/]+)/.exec(file);
  if (module !== null) return module[1]!;
  if (file.startsWith('node:')) return file;
  const path = file.replace(/^file:\/\//, '');
  const end = path.lastIndexOf('/');
  // A class stands in the folders of its package.
  if (/\.(?:java|kt|scala|groovy|class)$/.test(path))
    return end > 0 ? path.slice(0, end).replaceAll('/', '.') : '(no package)';
  return end > 0 ? path.slice(0, end) : file;
}
