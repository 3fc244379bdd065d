import type { Span } from '../../base/span.ts';
import type { Recording } from '../../model/recording.ts';
import { programPauses } from '../program-pauses.ts';
import { rememberSpan } from '../remember.ts';
import { diagnostic, explicit, outsideHeapCauses, periodic } from './asked-for.ts';
import { concurrentModeFailure, degenerated, pacing, stalls } from './concurrent.ts';
import { gatherRuleInput, type RuleInput, type Finding } from './finding.ts';
import { diesAfterPromotion, failedEvacuation, humongous, littleRoom, resizing, storms } from './pressure.ts';
import { longPauses, muchTime, otherStops, slowToStop, starvedThreads, tooOften } from './stops.ts';

/** Unless the engineer has a goal of his own, a pause that people notice. */
export const DEFAULT_GOAL_MS = 200;

const RULES: readonly ((input: RuleInput) => Finding[])[] = [
  storms,
  littleRoom,
  stalls,
  pacing,
  degenerated,
  concurrentModeFailure,
  failedEvacuation,
  longPauses,
  muchTime,
  diesAfterPromotion,
  explicit,
  humongous,
  outsideHeapCauses,
  periodic,
  diagnostic,
  starvedThreads,
  slowToStop,
  otherStops,
  resizing,
  tooOften,
];

/**
 * Problems that the span's collections show, the costliest first; what cost cannot be told stands in the order of the
 * rules. Empty when no rule holds, which is a result. Linear in the span's collections, pauses and spaces, and in all
 * safepoints.
 */
export function findProblems(recording: Recording, span: Span, goalMs = DEFAULT_GOAL_MS): readonly Finding[] {
  return goalMs === DEFAULT_GOAL_MS ? usualProblems(recording, span) : problemsOf(recording, span, goalMs);
}

const usualProblems = rememberSpan((recording, span) => problemsOf(recording, span, DEFAULT_GOAL_MS));

function problemsOf(recording: Recording, span: Span, goalMs: number): Finding[] {
  const input = gatherRuleInput(recording, span, programPauses(recording, span), goalMs);
  return RULES.flatMap((rule) => rule(input)).sort((a, b) => b.costMs - a.costMs);
}
