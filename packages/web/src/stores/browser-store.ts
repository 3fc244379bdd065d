import { missingOfImport } from '@brisk-heron/core';
import { ref } from 'vue';
import { type HeronDb, importLock } from '../db/heron-db.ts';

/** From here on the engineer is asked to choose what to export or drop. */
const NEARLY_FULL_RATIO = 0.8;

/** What the browser holds for this page, in bytes; null where it does not tell. */
export interface StoreUse {
  readonly usedBytes: number;
  readonly mayHoldBytes: number;
  /** True when the browser has promised not to drop it by itself. */
  readonly persistent: boolean;
  readonly isNearlyFull: boolean;
}

/** Looks after what the browser stores: how much that is, whether it stays, and what an earlier page left half done. */
export function browserStore(db: HeronDb) {
  const use = ref<StoreUse | null>(null);

  async function look(): Promise<void> {
    const { usage, quota } =
      (await navigator.storage?.estimate?.().catch(() => ({ usage: undefined, quota: undefined }))) ?? {};
    if (usage === undefined || quota === undefined) return;
    use.value = {
      usedBytes: usage,
      mayHoldBytes: quota,
      persistent: await navigator.storage.persisted().catch(() => false),
      isNearlyFull: usage > NEARLY_FULL_RATIO * quota,
    };
  }

  /**
   * Asks the browser not to drop recordings when the disk gets short. Some ask the user, some decide for themselves.
   */
  async function askToKeep(): Promise<void> {
    if (use.value?.persistent === true) return;
    await navigator.storage?.persist?.().catch(() => false);
    await look();
  }

  /** Bytes that may still be stored; Infinity where the browser does not tell. */
  async function roomBytes(): Promise<number> {
    await look();
    return use.value === null ? Infinity : use.value.mayHoldBytes - use.value.usedBytes;
  }

  /**
   * Puts right what a page that was ended left: imports that were broken off become recordings of a part, and chunks
   * without a recording go.
   */
  async function mend(): Promise<void> {
    await db.removeOrphans();
    const { held = [] } = await navigator.locks.query();
    const running = new Set(held.map(({ name }) => name));
    for (const { id } of await db.recordings
      .filter((row) => row.importing === true && !running.has(importLock(row.id)))
      .toArray()) {
      await db.mendRecording(id);
      const row = await db.recordings.get(id);
      if (row === undefined || row.bytes === 0) await db.removeRecording(id);
      else await db.recordings.update(id, { importing: false, missing: missingOfImport(row.bytes) });
    }
    await look();
  }

  return { use, look, askToKeep, roomBytes, mend };
}
