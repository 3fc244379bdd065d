import {
  COMPARED,
  type Compared,
  type ComparisonAnswer,
  type Per,
  PERS,
  type RibbonAnswer,
  type SideAsk,
  type Span,
} from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { computed, ref, type Ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, numberOf, oneOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { CancelledError } from '../../worker/client-core.ts';
import { pairTreeState } from './pair-tree-state.ts';
import { sharedWindows, shifted, type TwoWindows } from './side-layout.ts';
import { partMembers, partOf, type SidePart, WHOLE } from './side-part.ts';

/** How the view "What changed?" answers: figures, keys, call paths, pauses, ribbons. */
export type ChangesMode = 'figures' | 'keys' | 'paths' | 'picture' | 'pauses' | 'ribbons';
/**
 * Where the two sides stand beside each other: at their starts, at the first mark of a label that both have, or B moved
 * by hand.
 */
export type Alignment = 'start' | 'mark' | 'hand';

/** What can be set of it. */
export interface ChangesSettings {
  readonly mode?: ChangesMode;
  readonly per?: Per;
  readonly of?: Compared;
  readonly align?: Alignment;
  /** How much later than the start of A that of B stands, by hand. */
  readonly shiftMs?: number;
}

const MODES: readonly ChangesMode[] = ['figures', 'keys', 'paths', 'picture', 'pauses', 'ribbons'];
const ALIGNMENTS: readonly Alignment[] = ['start', 'mark', 'hand'];
const MOST_KEYS = 300;
const BINS = 900;

interface ChangesRefs {
  readonly otherId: Ref<string>;
  readonly otherPart: Ref<SidePart>;
  readonly shiftMs: Ref<number>;
  readonly isOtherAfter: Ref<boolean>;
  readonly mode: Ref<ChangesMode>;
  readonly per: Ref<Per>;
  readonly of: Ref<Compared>;
  readonly align: Ref<Alignment>;
  readonly rules: Ref<readonly string[] | null>;
}

function addressOf({ otherId, otherPart, isOtherAfter, mode, per, of, align, shiftMs }: ChangesRefs): AddressPart {
  return {
    write: () => [
      ...memberUnless('other', otherId.value, ''),
      ...partMembers(otherPart.value),
      ...memberUnless('otheris', isOtherAfter.value ? 'after' : 'before', 'before'),
      ...memberUnless('mode', mode.value, 'figures'),
      ...memberUnless('per', per.value, 'second'),
      ...memberUnless('of', of.value, 'growth'),
      ...memberUnless('align', align.value, 'start'),
      ...memberUnless('shift', String(Math.round(shiftMs.value)), '0'),
    ],
    read: (members) => {
      otherId.value = members.get('other') ?? '';
      otherPart.value = partOf(members);
      isOtherAfter.value = members.get('otheris') === 'after';
      mode.value = oneOf(MODES, members.get('mode'), 'figures');
      per.value = oneOf(PERS, members.get('per'), 'second');
      of.value = oneOf(COMPARED, members.get('of'), 'growth');
      align.value = oneOf(ALIGNMENTS, members.get('align'), 'start');
      const shift = numberOf(members.get('shift'));
      shiftMs.value = Number.isFinite(shift) ? shift : 0;
    },
  };
}

function joined(...parts: readonly AddressPart[]): AddressPart {
  return {
    write: () => parts.flatMap((part) => part.write()),
    read: (members) => parts.forEach((part) => part.read(members)),
  };
}

/** The ribbons of both sides, on one scale. */
export interface TwoRibbonAnswers {
  readonly windows: TwoWindows;
  readonly a: RibbonAnswer;
  readonly b: RibbonAnswer;
}

type TwoSides = readonly [SideAsk, SideAsk];

// Of whole recordings: a span is chosen in them.
async function ribbonsOf(
  { measureOf, look }: Asking,
  sides: TwoSides,
  { a, b, roundLabels }: ComparisonAnswer,
  { align, shiftMs }: { readonly align: Alignment; readonly shiftMs: number },
): Promise<TwoRibbonAnswers> {
  const [wholeA, wholeB] = sides.map(({ recording, run, heaps }): SideAsk => ({ recording, run, heaps })) as [
    SideAsk,
    SideAsk,
  ];
  const [ofA, ofB] = await Promise.all([measureOf(wholeA, 'overview', {}), measureOf(wholeB, 'overview', {})]);
  const isByMark = align === 'mark' && roundLabels.length > 0;
  const byHand = align === 'hand' ? shifted(shiftMs) : ([0, 0] as const);
  const windows = sharedWindows(
    [ofA.durationMs, ofB.durationMs],
    isByMark ? [a.roundFromMs[0]!, b.roundFromMs[0]!] : byHand,
  );
  const ribbonOf = (whole: SideAsk, window: Span): Promise<RibbonAnswer> =>
    measureOf(whole, 'ribbon', { ...look, window, bins: BINS, kind: null });
  const [ribbonA, ribbonB] = await Promise.all([ribbonOf(wholeA, windows.a), ribbonOf(wholeB, windows.b)]);
  return { windows, a: ribbonA, b: ribbonB };
}

// What the engineer does. `forget` drops what was answered.
function actionsOf(refs: ChangesRefs, forget: () => void) {
  const { otherId, otherPart, isOtherAfter, mode, per, of, align, shiftMs, rules } = refs;
  const changed = (): void => void useWorkspace().refresh('view');

  /** Compares with another recording, or another part of this one. `isAfter`: that is what came after. */
  function compareWith(id: string, part: SidePart, isAfter: boolean): void {
    otherId.value = id;
    otherPart.value = part;
    isOtherAfter.value = isAfter;
    forget();
    changed();
  }

  function chooseSpan(which: 'a' | 'b', span: Span | null): void {
    const isOther = (which === 'b') === isOtherAfter.value;
    if (!isOther) {
      useWorkspace().setSpan(span);
      return;
    }
    choosePart({
      ...WHOLE,
      run: otherPart.value.run,
      extent: span === null ? WHOLE.extent : { kind: 'span', ...span },
    });
  }

  /** What of the other side's recording is compared. */
  function choosePart(part: SidePart): void {
    otherPart.value = part;
    changed();
  }

  function turn(): void {
    isOtherAfter.value = !isOtherAfter.value;
    changed();
  }

  function set(given: ChangesSettings): void {
    mode.value = given.mode ?? mode.value;
    per.value = given.per ?? per.value;
    of.value = given.of ?? of.value;
    align.value = given.align ?? align.value;
    shiftMs.value = given.shiftMs ?? shiftMs.value;
    changed();
  }

  /** Names are matched by other rules; null for the usual. */
  function matchBy(given: readonly string[] | null): void {
    rules.value = given;
    changed();
  }

  return { compareWith, chooseSpan, choosePart, turn, set, matchBy };
}

/** What is asked of a comparison, and the answers. The side that is looked at is one of its sides, the other is chosen. */
export const useChanges = defineStore('changes', () => {
  /** Id of the recording of the other side, which may be the same; '' while none is chosen. */
  const otherId = ref('');
  /** What of it. */
  const otherPart = shallowRef<SidePart>(WHOLE);
  /** True where the other side is B. */
  const isOtherAfter = ref(false);
  const mode = ref<ChangesMode>('figures');
  const per = ref<Per>('second');
  const of = ref<Compared>('growth');
  const align = ref<Alignment>('start');
  const shiftMs = ref(0);
  /** What a build changes in names; null for the usual rules. */
  const rules = shallowRef<readonly string[] | null>(null);
  const answer = shallowRef<ComparisonAnswer | null>(null);
  const ribbons = shallowRef<TwoRibbonAnswers | null>(null);
  /** Why there is no answer, in words. */
  const problem = ref('');
  const refs = { otherId, otherPart, isOtherAfter, mode, per, of, align, shiftMs, rules };

  const otherSide = computed<SideAsk>(() => ({ recording: otherId.value, ...otherPart.value }));

  async function ask(asking: Asking): Promise<void> {
    if (otherId.value === '') {
      answer.value = ribbons.value = null;
      return;
    }
    const [mine, other] = [asking.side, otherSide.value];
    const sides: TwoSides = isOtherAfter.value ? [mine, other] : [other, mine];
    try {
      if (otherId.value !== mine.recording) await asking.openBeside(otherId.value);
      const got = await asking.pair(sides, 'comparison', {
        ...asking.look,
        of: of.value,
        most: MOST_KEYS,
        rules: rules.value === null ? null : [...rules.value],
      });
      if (!asking.isCurrent()) return;
      problem.value = '';
      answer.value = got;
      const isPicture = mode.value === 'picture';
      if (isPicture || mode.value === 'paths') await tree.ask(asking, sides, isPicture);
      const drawn =
        mode.value === 'ribbons'
          ? await ribbonsOf(asking, sides, got, { align: align.value, shiftMs: shiftMs.value })
          : null;
      if (asking.isCurrent()) ribbons.value = drawn;
    } catch (error) {
      if (error instanceof CancelledError || !asking.isCurrent()) return;
      answer.value = ribbons.value = null;
      problem.value = error instanceof Error ? error.message : String(error);
    }
  }

  const tree = pairTreeState(() => void useWorkspace().refresh('view'));
  const actions = actionsOf(refs, forget);

  function forget(): void {
    answer.value = ribbons.value = null;
    problem.value = '';
    tree.begin();
  }

  function reset(): void {
    forget();
    otherId.value = '';
    otherPart.value = WHOLE;
    isOtherAfter.value = false;
  }

  const address = joined(addressOf(refs), tree.address);
  return { address, ...refs, ...actions, ...{ tree, answer, ribbons, problem, ask, reset } };
});
