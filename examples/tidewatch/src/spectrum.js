import { setTimeout as pause } from 'node:timers/promises';

const BINS = 96;
const BREATH_MS = 40;

/**
 * The spectrum of a month's levels, a frequency at a time so that readings are received meanwhile. With the fault the month is copied
 * once for every frequency and all copies live until the last is summed up; without it each frequency is summed up where the levels are.
 */
export async function spectrum(levels, { copyAll }) {
  const turned = [];
  for (let bin = 0; copyAll && bin < BINS; bin++) {
    turned.push(turn(levels, bin));
    await pause(BREATH_MS);
  }
  const power = [];
  for (let bin = 0; bin < BINS; bin++) {
    power.push(strength(levels, turned[bin] ?? null, bin));
    if (!copyAll) await pause(BREATH_MS);
  }
  return power;
}

function turn(levels, bin) {
  return levels.map((level, at) => ({ level, turn: (at * bin) % levels.length }));
}

function strength(levels, turned, bin) {
  let [real, imaginary] = [0, 0];
  for (let at = 0; at < levels.length; at++) {
    const place = turned === null ? (at * bin) % levels.length : turned[at].turn;
    const angle = (2 * Math.PI * place) / levels.length;
    real += levels[at] * Math.cos(angle);
    imaginary += levels[at] * Math.sin(angle);
  }
  return Math.hypot(real, imaginary) / levels.length;
}

/** A made-up month of levels: two tides a day, and the moon's. */
export function month(readings = 30 * 24 * 20) {
  return Array.from({ length: readings }, (_, at) => 2.4 + 1.6 * Math.sin((at / 248) * 2 * Math.PI) + 0.3 * Math.sin((at / 7200) * 2 * Math.PI));
}
