/** Bytes of a kibibyte. */
export const KIB = 1024;
/** Bytes of a mebibyte. */
export const MIB = 1024 * 1024;

const SIZE_UNITS = ['B', 'KiB', 'MiB', 'GiB', 'TiB'] as const;

/** Bytes as people read them, 1024-based, three significant digits: `3.40 MiB`. "–" for NaN. */
export function formatBytes(bytes: number): string {
  if (!Number.isFinite(bytes)) return '–';
  let value = Math.abs(bytes);
  let unit = 0;
  while (value >= 1023.5 && unit < SIZE_UNITS.length - 1) {
    value /= KIB;
    unit++;
  }
  const digits = unit === 0 || value >= 99.95 ? 0 : value >= 9.995 ? 1 : 2;
  // What rounds to nothing has no sign.
  return `${bytes <= -0.5 ? '−' : ''}${value.toFixed(digits)} ${SIZE_UNITS[unit]}`;
}

/** A number in the unit `formatBytes` would pick for `likeBytes`, without the unit: for intervals like `3.1–3.8`. */
export function formatBytesLike(bytes: number, likeBytes: number): string {
  let unit = 1;
  let value = Math.abs(likeBytes);
  while (value >= 1023.5) {
    value /= KIB;
    unit *= KIB;
  }
  const shown = bytes / unit;
  const digits = unit === 1 || value >= 99.95 ? 0 : value >= 9.995 ? 1 : 2;
  return shown.toFixed(digits).replace('-', '−');
}

/** A duration: `0.31 ms`, `92 ms`, `4.2 s`, `3 min 0 s`, `2 h 5 min`. "–" for NaN. */
export function formatDuration(ms: number): string {
  if (!Number.isFinite(ms)) return '–';
  if (ms < 1000) return `${ms < 9.995 ? ms.toFixed(2) : ms < 99.95 ? ms.toFixed(1) : ms.toFixed(0)} ms`;
  const seconds = ms / 1000;
  if (seconds < 60) return `${seconds.toFixed(1)} s`;
  const minutes = Math.floor(seconds / 60);
  if (minutes < 60) return `${minutes} min ${Math.floor(seconds % 60)} s`;
  const hours = Math.floor(minutes / 60);
  return hours < 48 ? `${hours} h ${minutes % 60} min` : `${Math.floor(hours / 24)} days`;
}

/** A duration said roughly, one unit: "41 min". */
export function formatAbout(ms: number): string {
  const seconds = ms / 1000;
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  if (seconds < 172_800) return `${Math.round(seconds / 3600)} h`;
  return `${Math.round(seconds / 86_400)} days`;
}

/** An instant of a recording: `1:06`, `12:04.5` with tenths asked for, `1:02:03`. */
export function formatClock(ms: number, tenths = false): string {
  const total = Math.max(0, tenths ? Math.round(ms / 100) / 10 : Math.floor(ms / 1000));
  const hours = Math.floor(total / 3600);
  const minutes = Math.floor(total / 60) % 60;
  const seconds = total % 60;
  const tail = (tenths ? seconds.toFixed(1) : String(seconds)).padStart(tenths ? 4 : 2, '0');
  return hours > 0 ? `${hours}:${String(minutes).padStart(2, '0')}:${tail}` : `${minutes}:${tail}`;
}

/** A ratio as a percentage with sensible digits: `92 %`, `1.8 %`, `0.04 %`. */
export function formatPercent(ratio: number): string {
  if (!Number.isFinite(ratio)) return '–';
  const percent = ratio * 100;
  const magnitude = Math.abs(percent);
  if (magnitude > 0 && magnitude < 0.005) return '< 0.01 %';
  const digits = magnitude >= 99.95 || magnitude === 0 ? 0 : magnitude >= 9.95 ? 0 : magnitude >= 0.995 ? 1 : 2;
  return `${percent.toFixed(digits).replace('-', '−')} %`;
}
