import { ref } from 'vue';

/** Answers that take longer than this are said to be awaited. */
const BUSY_MS = 400;

/**
 * Asks for parts of a screen, one round at a time: what is wanted while a round runs is remembered once, and asked for
 * after it. `isDue` tells a round that a part is wanted anew, so that it need not be asked for any more; not twice in a
 * row, or what grows all the time would never be shown. `askParts` never rejects.
 */
export function partsAsker<P extends string>(
  all: readonly P[],
  askParts: (parts: readonly P[], isDue: (part: P) => boolean) => Promise<void>,
) {
  /** True while answers are awaited for longer than a moment. */
  const isBusy = ref(false);
  const due = new Set<P>();
  const passedOver = new Set<P>();
  let running = false;

  function isDue(part: P): boolean {
    if (!due.has(part) || passedOver.has(part)) {
      passedOver.delete(part);
      return false;
    }
    passedOver.add(part);
    return true;
  }

  /** Asks again for parts of the screen, all without a name. */
  async function refresh(...parts: readonly P[]): Promise<void> {
    for (const part of parts.length > 0 ? parts : all) due.add(part);
    if (running) return;
    running = true;
    const late = setTimeout(() => {
      isBusy.value = true;
    }, BUSY_MS);
    while (due.size > 0) {
      const now = [...due];
      due.clear();
      await askParts(now, isDue);
    }
    clearTimeout(late);
    running = isBusy.value = false;
  }

  return { refresh, isBusy };
}
