import { siteTable, type Charge, type Recording, type SiteTable, type Span } from '@brisk-heron/core';

/** Where answers get a site table from. Tables may be shared between answers: nothing of them may be transferred away. */
export type SiteTables = (recording: Recording, span: Span, charge: Charge) => SiteTable;

const KEPT = 4;

/** Site tables, each computed once while its recording has not grown: one screen asks for the same several times. */
export function rememberedSiteTables(): SiteTables {
  const kept = new Map<string, SiteTable>();
  return (recording, span, charge) => {
    const key = `${recording.bytes} ${recording.durationMs} ${span.fromMs} ${span.toMs} ${charge}`;
    const known = kept.get(key);
    if (known !== undefined) return known;
    const table = siteTable(recording, span, charge);
    kept.set(key, table);
    const oldest = kept.keys().next().value;
    if (kept.size > KEPT && oldest !== undefined) kept.delete(oldest);
    return table;
  };
}
