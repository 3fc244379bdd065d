/**
 * Points reduced to the least y of `blocks` equal runs of points, each at its own x. Copies; fewer points pass whole.
 */
export function blockMinima(x: Float64Array, y: Float64Array, blocks: number): { x: Float64Array; y: Float64Array } {
  const n = x.length;
  if (n <= blocks) return { x: x.slice(), y: y.slice() };
  const outX = new Float64Array(blocks);
  const outY = new Float64Array(blocks);
  for (let block = 0; block < blocks; block++) {
    const from = Math.floor((block * n) / blocks);
    const to = Math.floor(((block + 1) * n) / blocks);
    let least = from;
    for (let i = from + 1; i < to; i++) if (y[i]! < y[least]!) least = i;
    outX[block] = x[least]!;
    outY[block] = y[least]!;
  }
  return { x: outX, y: outY };
}
