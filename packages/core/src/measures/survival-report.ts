import type { ChargeTable } from '../analysis/charge-table.ts';
import { spanFlows } from '../analysis/span-flows.ts';
import { type GroupSurvival, shareAt, survivalOf } from '../analysis/survival/curves.ts';
import { livesByGroup } from '../analysis/survival/life-tables.ts';
import { livesOf } from '../analysis/survival/lives.ts';
import type { Span } from '../base/span.ts';
import { chargeGroups, chargeText } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';

/** Sites whose survival is told beside that of all. */
const SURVIVING_SITES = 10;
/** Ages past which the share that lives is told, in milliseconds. */
export const PAST_MS = [1000, 10_000, 60_000] as const;

/** How long objects live, of all and of the sites that allocate most, as `analyze --json` tells it. */
export function survivalReport(recording: Recording, span: Span, { charge, rows }: ChargeTable) {
  const lives = livesOf(recording, {
    ...{ span, kind: 'seconds', by: 'bytes', chosen: null },
    flows: spanFlows(recording, span),
  });
  const { groupOf, keys } = chargeGroups(recording, charge);
  const top = [...rows].sort((a, b) => b.allocBytes - a.allocBytes).slice(0, SURVIVING_SITES);
  const placeOf = new Map(top.map(({ key }, at) => [key, at]));
  const places = Int32Array.from(keys, (key) => placeOf.get(key) ?? -1);
  const topOf = new Int32Array(groupOf.length);
  for (let originId = 0; originId < topOf.length; originId++) topOf[originId] = places[groupOf[originId]!]!;
  const { whole, groups } = survivalOf(livesByGroup(lives, top.length, topOf), 'seconds');
  return {
    ...survivalMember(whole),
    sites: groups.map((group, at) => ({ site: chargeText(recording, charge, top[at]!.key), ...survivalMember(group) })),
  };
}

function survivalMember({ samples, median, p90, curve, missing }: GroupSurvival) {
  const past = PAST_MS.map((ms) => {
    const { low = null, estimate = null, high = null } = shareAt(curve, ms) ?? {};
    return { ms, low, estimate, high };
  });
  return { samples, medianMs: median, p90Ms: p90, past, missing: missing === '' ? null : missing };
}
