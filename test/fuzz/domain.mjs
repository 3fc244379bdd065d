/** What no figure of a report may be, whatever the input was. */
const MOST_BYTES = 2 ** 50;
/** Of many of them. */
const MOST_SUM_BYTES = 2 ** 58;
const MOST_MS = 10 * 366 * 86_400_000;
const SIGNED =
  /(?:PerSec|PerMin|interval|slope|low|high|tau|grow|Se|bounds?|changeBytes|level|attributedBytes|unattributedBytes|residual)/i;
const RATIO = /(?:Ratio$|utilisation$|^ratio$)/;
const FREE_RATIO = /(?:explainedRatio|shareRatio|ofGrowthRatio|worstRatio)/;

/** The first figure outside its domain, by its place in the report; '' where all are inside. */
export function outsideDomain(report) {
  const { durationMs } = report;
  const visit = (value, path, name) => {
    if (typeof value === 'number') return check(value, path, name, durationMs);
    if (value === null || typeof value !== 'object') return '';
    for (const [key, member] of Object.entries(value)) {
      // Runs are reports of their own; what a source says of itself is text.
      if (key === 'source' || key === 'runs') continue;
      const problem = visit(member, `${path}.${key}`, Array.isArray(value) ? name : key);
      if (problem !== '') return problem;
    }
    return '';
  };
  return visit(report, '', '');
}

function check(value, path, name, durationMs) {
  const told = `${path} = ${value}`;
  if (!Number.isFinite(value)) return told;
  if (RATIO.test(name) && !FREE_RATIO.test(name)) return value >= 0 && value <= 1 ? '' : told;
  if (SIGNED.test(path)) return Math.abs(value) <= 1e18 ? '' : told;
  if (/^(?:total|alloc|low|high)Bytes/.test(name)) return value >= 0 && value <= MOST_SUM_BYTES ? '' : told;
  if (/Bytes$/.test(name)) return value >= 0 && value <= MOST_BYTES ? '' : told;
  if (name === 'durationMs') return value >= 0 && value <= MOST_MS ? '' : told;
  if (/^(?:fromMs|toMs|tMs|sinceMs|atMs|startMs|endMs|endOfWorkMs|outOfMemoryMs)$/.test(name))
    return value >= 0 && value <= (durationMs ?? MOST_MS) + 1e-6 ? '' : told;
  if (/Ms$/.test(name)) return value >= 0 && value <= MOST_MS ? '' : told;
  return Math.abs(value) <= 1e18 ? '' : told;
}
