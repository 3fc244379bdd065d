import { formatBytes } from '@brisk-heron/core';

/** 95 % half-width of an estimate as text: `± 0.20 MiB`, '' when the figure is exact. */
export function plusMinus(se: number): string {
  return se > 0 ? `± ${formatBytes(1.96 * se)}` : '';
}

/** Exact bytes for a hint. */
export function exactBytes(bytes: number): string {
  return Number.isFinite(bytes) ? `${Math.round(bytes).toLocaleString('en')} bytes (1 MiB = 1,048,576)` : 'unknown';
}

/** Bytes of a round setting, without decimals that say nothing: `64 KiB`, `1.5 MiB`. */
export function settingBytes(bytes: number): string {
  return formatBytes(bytes).replace(/(\.\d*?)0+(?= )/, '$1').replace(/\.(?= )/, '');
}

/** `OpenJDK 17.0.15` of `OpenJDK 17.0.15+6-Debian-1 (release), G1`; the collector stays. */
export function shortRuntime(runtime: string): string {
  return runtime.replace(/^(OpenJDK [\d.]+)[^,]*/, '$1');
}

/** A type's own name without its package: `HashMap.Node[]` of `java.util.HashMap.Node[]`. */
export function shortType(type: string | null): string {
  return type === null ? '–' : type.replace(/^(?:[a-z_][\w$]*\.)+/, '');
}

/** What a live series looks like, in a word. */
export function patternOf(site: { readonly growthLow: number; readonly growthHigh: number; readonly tau: number; readonly liveBytes: Float64Array }): string {
  if (!site.liveBytes.some((bytes) => bytes > 0)) return 'nothing old enough';
  if (site.growthLow > 0) return site.tau > 0.8 ? 'rises steadily' : 'rises';
  if (site.growthHigh < 0) return 'falls';
  return site.tau > 0.5 ? 'unclear' : 'steady';
}
