import {
  type Charge,
  type Counted,
  findTermText,
  formatBytes,
  formatDuration,
  type GrowthRow,
  isFrameCharge,
  type MedianLifetime,
  Z_95,
} from '@brisk-heron/core';

/** 95 % half-width of an estimate as text: `± 0.20 MiB`, '' when the figure is exact. */
export function plusMinus(se: number): string {
  return se > 0 ? `± ${formatBytes(Z_95 * se)}` : '';
}

/** Exact bytes for a hint. */
export function exactBytes(bytes: number): string {
  return Number.isFinite(bytes) ? `${Math.round(bytes).toLocaleString('en')} bytes (1 MiB = 1,048,576)` : 'unknown';
}

/** Bytes of a round setting, without decimals that say nothing: `64 KiB`, `1.5 MiB`. */
export function settingBytes(bytes: number): string {
  return formatBytes(bytes)
    .replace(/(\.\d*?)0+(?= )/, '$1')
    .replace(/\.(?= )/, '');
}

/** `OpenJDK 17.0.15` of `OpenJDK 17.0.15+6-Debian-1 (release), G1`; the collector stays. */
export function shortRuntime(runtime: string): string {
  return runtime.replace(/^(OpenJDK [\d.]+)[^,]*/, '$1');
}

/** A type's own name without its package: `HashMap.Node[]` of `java.util.HashMap.Node[]`. */
export function shortType(type: string | null): string {
  return type === null ? '–' : type.replace(/^(?:[a-z_][\w$]*\.)+/, '');
}

/** Charges in words. */
export const CHARGE_WORDS: Readonly<Record<Charge, string>> = {
  ownFrame: 'own frame',
  site: 'site',
  function: 'function',
  file: 'file',
  package: 'package',
  type: 'type',
  thread: 'thread',
  heap: 'heap',
  space: 'space',
};

/** What a live series looks like, in a few words. */
export function patternText(row: Pick<GrowthRow, 'pattern' | 'perRound'>): string {
  const { pattern, perRound } = row;
  if (perRound !== null) {
    const count = Math.round(perRound.count);
    return `${count >= 1 && Math.abs(perRound.count - count) < 0.05 * count ? `+${count.toLocaleString('en')}` : `+${formatBytes(perRound.bytes)}`} a round`;
  }
  switch (pattern.kind) {
    case 'too-young':
      return 'nothing old enough';
    case 'rises-steadily':
      return 'rises steadily';
    case 'steps':
      return `+${formatBytes(pattern.stepBytes)} ${Number.isNaN(pattern.periodMs) ? `${pattern.times} times` : `each ${formatDuration(pattern.periodMs)}`}`;
    default:
      return pattern.kind;
  }
}

/** A slope a minute with its sign: `+3.4 MiB/min`; a dash where it was not measured. */
export function slopeText(bytesPerSec: number): string {
  return Number.isNaN(bytesPerSec) ? '–' : `${formatBytes(bytesPerSec * 60)}/min`;
}

/**
 * A count of objects, estimated or exact; a dash where the source gives bytes only. One with an error is rounded to two
 * digits of that.
 */
export function countText(count: number, se = 0): string {
  if (Number.isNaN(count)) return '–';
  const step = se > 0 ? 10 ** Math.max(0, Math.floor(Math.log10(Z_95 * se)) - 1) : 1;
  return (Math.round(count / step) * step).toLocaleString('en');
}

/** 95 % half-width of a count as text: `± 120`, '' when the count is exact. */
export function plusMinusCount(se: number): string {
  return se > 0 ? `± ${countText(Math.ceil(Z_95 * se), se)}` : '';
}

/** An amount of what is measured, bytes or objects, as text. */
export function amountText(counted: Counted, amount: number): string {
  return counted === 'bytes' ? formatBytes(amount) : countText(amount);
}

/** 95 % half-width of an amount as text, '' when it is exact. */
export function amountError(counted: Counted, se: number): string {
  return counted === 'bytes' ? plusMinus(se) : plusMinusCount(se);
}

/**
 * A median lifetime as the range it lies in: `0.2 s – 0.5 s`, `under 5 ms`, `over 12 s`; a dash where nothing was seen.
 */
export function lifetimeText(lifetime: MedianLifetime | null): string {
  if (lifetime === null) return '–';
  const { lowMs, highMs, oldestMs } = lifetime;
  if (Number.isNaN(highMs)) return `over ${formatDuration(Number.isNaN(lowMs) ? oldestMs : lowMs)}`;
  if (lowMs <= 0) return `under ${formatDuration(highMs)}`;
  const [low, high] = [formatDuration(lowMs), formatDuration(highMs)];
  // Ages are read to a sixteenth: a range that is no wider is one figure.
  return low === high || highMs <= lowMs * (1 + 1 / 8) ? high : `${low} – ${high}`;
}

function placedTerm(file: string, line: number): string {
  return /\s/.test(file) ? `"${file}:${line}"` : `${file}:${line}`;
}

/** A find that lets one key of a charge through: `function=subscribe alerts.js:14`. A line of 0 is any. */
export function findOnly(charge: Charge, name: string, file: string, line: number): string {
  if (isFrameCharge(charge)) {
    const placed = line > 0 && charge !== 'function' ? placedTerm(file, line) : findTermText('file', file);
    return [findTermText('function', name), ...(file === '' ? [] : [placed])].join(' ');
  }
  return charge === 'file' ||
    charge === 'package' ||
    charge === 'type' ||
    charge === 'thread' ||
    charge === 'heap' ||
    charge === 'space'
    ? findTermText(charge, name)
    : name;
}

/** The same for a key as it is labelled: `subscribe alerts.ts:88`, or its own words. */
export function findOfLabel(charge: Charge, label: string): string {
  const [, name, file = '', line = '0'] = /^(.*) (\S+?)(?::(\d+))?$/.exec(label) ?? [];
  return isFrameCharge(charge) && name !== undefined
    ? findOnly(charge, name, file, Number(line))
    : findOnly(charge, label, '', 0);
}
