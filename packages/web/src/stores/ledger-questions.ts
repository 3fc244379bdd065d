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
  let aim: LedgerAim = { kind: 'place', place: 0 };

  async function ask(asker: (ask: LedgerAsk) => Promise<LedgerAnswer>, look: Look, isCurrent: () => boolean): Promise<void> {
    const asked = aim;
    const got = await asker({ look, aim: asked, count: count.value, gapMs: gapMs.value });
    if (!isCurrent()) return;
    answer.value = got;
    // A place stays where it is; a time or a collection was gone to.
    if (aim === asked) aim = { kind: 'place', place: got.place };
  }

  function go(next: LedgerAim): void {
    aim = next;
    changed();
  }

  function fit(lines: number): void {
    if (lines === count.value || lines < 1) return;
    count.value = lines;
    changed();
  }

  function reset(): void {
    answer.value = null;
    aim = { kind: 'place', place: 0 };
  }

  return { answer, count, gapMs, ask, go, fit, reset };
}
