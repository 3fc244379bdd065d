import { ref, shallowRef } from 'vue';
import type { Look } from '../workers/answers/evidence.ts';
import type { LedgerAim, LedgerAnswer, LedgerAsk } from '../workers/answers/ledger.ts';

const FIRST_LINES = 30;
const GAP_MS = 100;

/** Where the ledger stands, and its lines. `changed` is called when others are wanted. */
export function ledgerQuestions(changed: () => void) {
  const answer = shallowRef<LedgerAnswer | null>(null);
  const count = ref(FIRST_LINES);
  const gapMs = ref(GAP_MS);
  /** Place of the line that keys act on. */
  const active = ref(0);
  /** True while the lines that were gone to are awaited. */
  const isGoing = ref(false);
  let aim: LedgerAim = { kind: 'place', place: 0 };

  async function ask(asker: (ask: LedgerAsk) => Promise<LedgerAnswer>, look: Look, isCurrent: () => boolean): Promise<void> {
    const asked = aim;
    const got = await asker({ look, aim: asked, count: count.value, gapMs: gapMs.value });
    if (!isCurrent()) return;
    answer.value = got;
    if (aim !== asked) return;
    isGoing.value = false;
    // A place stays where it is; a time or a collection was gone to.
    active.value = asked.kind === 'place' ? Math.max(0, Math.min(active.value, got.total - 1)) : got.aimed;
    aim = { kind: 'place', place: got.place };
  }

  function go(next: LedgerAim): void {
    aim = next;
    isGoing.value = true;
    changed();
  }

  /** Makes a line the active one, and brings it into sight. */
  function goTo(place: number): void {
    const shown = answer.value;
    if (shown === null) return;
    active.value = Math.max(0, Math.min(shown.total - 1, place));
    if (active.value < shown.place) go({ kind: 'place', place: active.value });
    else if (active.value >= shown.place + count.value) go({ kind: 'place', place: active.value - count.value + 1 });
  }

  function fit(lines: number): void {
    if (lines === count.value || lines < 1) return;
    count.value = lines;
    changed();
  }

  function reset(): void {
    answer.value = null;
    isGoing.value = false;
    active.value = 0;
    aim = { kind: 'place', place: 0 };
  }

  return { answer, count, gapMs, active, isGoing, ask, go, goTo, fit, reset };
}
