const BINS = 96;

/**
 * The spectrum of a month's levels. With the fault the whole month is copied once for every frequency before anything is summed up, and
 * all copies live until the end; without it each frequency is summed up where the levels are.
 */
export function spectrum(levels, { copyAll }) {
  const turned = copyAll ? Array.from({ length: BINS }, (_, bin) => levels.map((level, at) => ({ level, turn: (at * bin) % levels.length }))) : null;
  return Array.from({ length: BINS }, (_, bin) => {
    let [real, imaginary] = [0, 0];
    for (let at = 0; at < levels.length; at++) {
      const turn = turned === null ? (at * bin) % levels.length : turned[bin][at].turn;
      const angle = (2 * Math.PI * turn) / levels.length;
      real += levels[at] * Math.cos(angle);
      imaginary += levels[at] * Math.sin(angle);
    }
    return Math.hypot(real, imaginary) / levels.length;
  });
}

/** A made-up month of levels: two tides a day, and the moon's. */
export function month(readings = 30 * 24 * 20) {
  return Array.from({ length: readings }, (_, at) => 2.4 + 1.6 * Math.sin((at / 248) * 2 * Math.PI) + 0.3 * Math.sin((at / 7200) * 2 * Math.PI));
}
