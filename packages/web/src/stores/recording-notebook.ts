import { EMPTY_NOTEBOOK, formatClock, type Notebook } from '@brisk-heron/core';
import { ref, shallowRef } from 'vue';

/** Moments are kept at most this often by themselves, and no more than so many. */
const MOST_MOMENTS = 2000;

/**
 * What the engineer notes beside a recording: limit, settle time, kept moments. `store` is called with each new state
 * and may fail without losing what is on the screen.
 */
export function recordingNotebook(store: (notebook: Notebook) => void) {
  const notebook = shallowRef<Notebook>(EMPTY_NOTEBOOK);
  /** Keep a moment this often while the recording is live; null for never. */
  const momentEveryMs = ref<number | null>(null);

  function open(stored: Notebook | undefined): void {
    notebook.value = stored ?? EMPTY_NOTEBOOK;
    momentEveryMs.value = null;
  }

  function write(changed: Partial<Notebook>): void {
    notebook.value = { ...notebook.value, ...changed };
    store(notebook.value);
  }

  /** Keeps a moment under a name, else under its time. A moment that is kept already gets the name. */
  function keepMoment(tMs: number, name = ''): void {
    const others = notebook.value.moments.filter((moment) => moment.tMs !== tMs);
    if (others.length >= MOST_MOMENTS) return;
    write({ moments: [...others, { name: name.trim() || formatClock(tMs, true), tMs }].sort((a, b) => a.tMs - b.tMs) });
  }

  function dropMoment(tMs: number): void {
    write({ moments: notebook.value.moments.filter((moment) => moment.tMs !== tMs) });
  }

  /** Keeps the head of a live recording when the time for it has come. */
  function keepHead(headMs: number): void {
    const every = momentEveryMs.value;
    if (every === null) return;
    const last = notebook.value.moments.reduce((latest, moment) => Math.max(latest, moment.tMs), -Infinity);
    if (headMs - last >= every) keepMoment(headMs);
  }

  return { notebook, momentEveryMs, open, write, keepMoment, dropMoment, keepHead };
}
