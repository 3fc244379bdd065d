import type { FrameText } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { findSource, type SourceAnswer } from '../sources/find-source.ts';
import { folderOfFiles, folderOfHandle, type SourceFolder } from '../sources/source-folder.ts';
import { useLibrary } from './library.ts';

/** What browsers with a dialog for folders offer beyond the standard's types. */
interface FolderWindow {
  showDirectoryPicker?: (options: { id: string; mode: 'read' }) => Promise<FileSystemDirectoryHandle>;
}
type Permitted = FileSystemDirectoryHandle &
  Partial<Record<'queryPermission' | 'requestPermission', (options: { mode: 'read' }) => Promise<PermissionState>>>;

// The folder whose files are listed, and what went wrong with the last that was given.
function listedFolder() {
  const folder = shallowRef<SourceFolder | null>(null);
  const problem = ref('');
  const isListing = ref(false);
  /** A folder of an earlier visit, which the browser reads again when the user allows it. */
  const remembered = shallowRef<Permitted | null>(null);

  /** Takes files that were chosen in a file field; these cannot be remembered. */
  function takeFiles(files: readonly File[]): void {
    if (files.length === 0) return;
    problem.value = '';
    folder.value = folderOfFiles(files);
  }

  async function take(handle: FileSystemDirectoryHandle): Promise<boolean> {
    problem.value = '';
    isListing.value = true;
    try {
      folder.value = await folderOfHandle(handle);
      remembered.value = null;
      return true;
    } catch (error) {
      problem.value = `“${handle.name}” cannot be read: ${message(error)}`;
      return false;
    } finally {
      isListing.value = false;
    }
  }

  return { folder, problem, isListing, remembered, take, takeFiles };
}

/**
 * The folder of sources that the user gave for the open recording. It stays on the user's disk; the browser remembers
 * where.
 */
export const useSources = defineStore('sources', () => {
  const { db } = useLibrary();
  const { folder, problem, isListing, remembered, take, takeFiles } = listedFolder();
  const canPick = computed(() => 'showDirectoryPicker' in globalThis);
  let recordingId = '';

  /** Looks for the folder that was given for a recording before. */
  async function open(id: string): Promise<void> {
    if (id === recordingId) return;
    recordingId = id;
    folder.value = null;
    remembered.value = null;
    problem.value = '';
    const row = await db.folders.get(id).catch(() => undefined);
    if (row === undefined || id !== recordingId) return;
    const handle = row.handle as Permitted;
    if (await isReadable(handle)) await take(handle);
    else remembered.value = handle;
  }

  /** Asks for a folder with the browser's dialog. */
  async function pick(): Promise<void> {
    try {
      const handle = await askedFolder();
      if (handle !== undefined) await remember(handle);
    } catch (error) {
      // Closing the dialog is no problem.
      if (!(error instanceof DOMException && error.name === 'AbortError')) problem.value = message(error);
    }
  }

  async function reopen(): Promise<void> {
    const handle = remembered.value;
    if (handle === null) return;
    if ((await handle.requestPermission?.({ mode: 'read' })) === 'granted') await take(handle);
    else problem.value = 'the browser was not allowed to read the folder';
  }

  async function remember(handle: FileSystemDirectoryHandle): Promise<void> {
    if (await take(handle)) await db.folders.put({ recordingId, handle });
  }

  async function drop(items: DataTransferItemList): Promise<void> {
    const dropped = await droppedFolder(items);
    if (dropped !== null) await remember(dropped);
    else problem.value = 'expected a folder: drop the one that the program was built from';
  }

  async function forget(): Promise<void> {
    folder.value = null;
    remembered.value = null;
    await db.folders.delete(recordingId);
  }

  const find = async (frame: FrameText, prefer = ''): Promise<SourceAnswer | null> =>
    folder.value === null ? null : findSource(folder.value, frame, prefer);

  return { folder, problem, isListing, remembered, canPick, open, pick, reopen, takeFiles, drop, forget, find };
});

type DroppedItem = DataTransferItem & { getAsFileSystemHandle?: () => Promise<FileSystemHandle | null> };

async function droppedFolder(items: DataTransferItemList): Promise<FileSystemDirectoryHandle | null> {
  const handles = await Promise.all([...items].map(async (item) => (item as DroppedItem).getAsFileSystemHandle?.()));
  return (handles.find((handle) => handle?.kind === 'directory') as FileSystemDirectoryHandle | undefined) ?? null;
}

async function askedFolder(): Promise<FileSystemDirectoryHandle | undefined> {
  return (globalThis as FolderWindow).showDirectoryPicker?.({ id: 'sources', mode: 'read' });
}

/** True for a folder of an earlier visit that may still be read without asking. */
async function isReadable(handle: Permitted): Promise<boolean> {
  return (await handle.queryPermission?.({ mode: 'read' })) === 'granted';
}

function message(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
