/** Values that are looked at: a step that so many share is shared by all. */
const MOST_VALUES = 400;

/**
 * The step in which sizes come: the greatest number of bytes that divides all of them, as they were printed or as the
 * collector counts (whole megabytes, pages of two). 1 where they have none in common; 0 for no values, or none above 0.
 * By Euclid's algorithm, on at most 400 of them.
 */
export function commonStepBytes(bytes: Float64Array): number {
  const stride = Math.max(1, Math.floor(bytes.length / MOST_VALUES));
  let step = 0;
  for (let at = 0; at < bytes.length; at += stride) {
    let rest = Math.round(bytes[at]!);
    while (rest !== 0) [step, rest] = [rest, step % rest];
    if (step === 1) return 1;
  }
  return step;
}
