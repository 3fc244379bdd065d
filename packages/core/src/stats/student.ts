/**
 * Point of Student's distribution that belongs to the normal point `z`, with `degrees` of freedom (1 at least).
 * Source: Abramowitz & Stegun, Handbook of Mathematical Functions (1964), 26.7.5, four terms; within 1 % from four
 * degrees on, for |z| to 3.
 */
export function studentPoint(z: number, degrees: number): number {
  const [z3, z5, z7] = [z ** 3, z ** 5, z ** 7];
  return (
    z +
    (z3 + z) / (4 * degrees) +
    (5 * z5 + 16 * z3 + 3 * z) / (96 * degrees ** 2) +
    (3 * z7 + 19 * z5 + 17 * z3 - 15 * z) / (384 * degrees ** 3)
  );
}
