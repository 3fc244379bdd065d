/** Path of a small line over `width` × `height` pixels; values between 0 and their maximum. '' for fewer than two. */
export function sparkPath(values: ArrayLike<number>, width: number, height: number): string {
  if (values.length < 2) return '';
  let most = 0;
  for (let i = 0; i < values.length; i++) if (values[i]! > most) most = values[i]!;
  if (most <= 0) return `M0,${height - 0.5}H${width}`;
  let path = '';
  for (let i = 0; i < values.length; i++) {
    const x = (i / (values.length - 1)) * width;
    const y = height - 1 - (values[i]! / most) * (height - 2);
    path += `${i === 0 ? 'M' : 'L'}${x.toFixed(1)},${y.toFixed(1)}`;
  }
  return path;
}
