import { useSites } from '../questions/sites/sites-state.ts';
import { useWorkspace } from '../stores/workspace.ts';

/** One step of the first investigation: what to see, and the look that shows it. */
export interface GuideStep {
  readonly title: string;
  readonly text: string;
  /** The sample it is about. */
  readonly sample: 'growing' | 'fixed';
  /** Looks at it; called when the recording has answered. */
  show(): void;
}

function growthAlone(): void {
  const workspace = useWorkspace();
  workspace.select(null);
  workspace.setSpan(null);
  workspace.setWindow(null);
  workspace.show('growth');
}

function selectGrowing(): void {
  const workspace = useWorkspace();
  const key = workspace.overview?.growingKey ?? null;
  workspace.show('growth');
  workspace.setSpan(null);
  if (key !== null) workspace.select({ kind: 'key', charge: 'ownFrame', key });
}

/** A real investigation in the real screens: growing, since when, where, why, fixed. */
export const GUIDE_STEPS: readonly GuideStep[] = [
  {
    title: 'Is it growing?',
    text: 'The sentence above says it first, with its interval. The chart shows why: each square is what was still used right after a whole collection. It climbs and never comes back.',
    sample: 'growing',
    show: growthAlone,
  },
  {
    title: 'Since when, and with what?',
    text: 'Time runs along the ribbon. A layer is what was born in one slice of time: those that do not thin out stay. The program marks each reconnect of its gauges, and the span is now between two of them: every figure on the page is about it.',
    sample: 'growing',
    show(): void {
      const workspace = useWorkspace();
      growthAlone();
      const [from, to] = workspace.ribbon?.marks ?? [];
      if (from !== undefined && to !== undefined) workspace.setSpan({ fromMs: from.tMs, toMs: to.tMs });
    },
  },
  {
    title: 'Which line?',
    text: 'The table ranks your own lines by what they add to what stays. One explains nearly all of it, and adds the same at every reconnect: its row is chosen, and the drawer on the right holds the evidence.',
    sample: 'growing',
    show: selectGrowing,
  },
  {
    title: 'Why does it stay?',
    text: 'These are the call paths to that line, from where it allocates up: a reconnect subscribes again. The source in the drawer shows the list that it is put into. Nothing takes it out again.',
    sample: 'growing',
    show(): void {
      selectGrowing();
      useSites().set({ mode: 'paths', direction: 'allocation', fate: 'kept' });
      useWorkspace().show('sites');
    },
  },
  {
    title: 'Is it fixed?',
    text: 'The same program after the line was mended, recorded in the same way. The sentence is another one now, and the floor is level. That is all: drop a log or record a program of your own.',
    sample: 'fixed',
    show: growthAlone,
  },
];
