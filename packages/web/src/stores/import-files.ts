import type { Ref } from 'vue';
import { WorkerClient } from '../worker/worker-client.ts';
import type { importRunState } from './import-run.ts';

/** Where what becomes of an import is told, and how an earlier one of a file is found. */
export interface ImportTelling {
  readonly problem: Ref<string>;
  readonly told: Ref<string>;
  /** Id of the recording that was made of a file; null for none. */
  kept(fileName: string): Promise<string | null>;
}

/** Importing files that hold one run or several; what was done with them is told in `told`. */
export function importFilesState(run: ReturnType<typeof importRunState>, { problem, told, kept }: ImportTelling) {
  /**
   * Imports files, each run that they hold into a recording of its own; answers the new recording's id where there is
   * one, null when there are several, or when that failed or was cancelled.
   */
  async function importFiles(files: readonly File[]): Promise<string | null> {
    problem.value = '';
    told.value = '';
    if (files.length === 1) return run.importRun(files);
    const client = new WorkerClient();
    const { groups, copies } = await client
      .ask('groupFiles', { files: [...files] })
      .catch(() => ({ groups: [files], copies: [] }))
      .finally(() => client.close());
    const left =
      copies.length === 0
        ? ''
        : ` ${copies.length} ${copies.length === 1 ? 'file was a copy' : 'files were copies'} of another, and left out.`;
    if (groups.length <= 1) {
      const id = await run.importRun(groups[0] ?? files);
      told.value = left.trim();
      return id;
    }
    const problems: string[] = [];
    let imports = 0;
    for (const group of groups) {
      if ((await run.importRun(group)) !== null) imports++;
      else if (problem.value === '') break;
      else problems.push(problem.value);
    }
    problem.value = problems.join('\n');
    told.value = `${files.length} files held ${groups.length} runs, by their clocks and what they say of themselves: ${imports} recordings were made of them.${left}`;
    return null;
  }

  async function importSample(name: string): Promise<string | null> {
    const response = await fetch(`/samples/${encodeURIComponent(name)}`);
    return importFiles([new File([await response.blob()], name)]);
  }

  /** The recording of a sample: the one that is here already, or a new one. */
  async function openSample(name: string): Promise<string | null> {
    return (await kept(name)) ?? importSample(name);
  }

  return { importFiles, importSample, openSample };
}
