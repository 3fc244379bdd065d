import { ref, type Ref, shallowRef } from 'vue';

const LEAST_WIDTH = 40;

/** Which columns of a table are left out, and how wide those are that were drawn wider or narrower. */
export interface ColumnChoice {
  readonly hidden: Ref<ReadonlySet<string>>;
  /** Pixels, of the columns that have a width of their own. */
  readonly widths: Ref<ReadonlyMap<string, number>>;
  toggle(key: string): void;
  /** Gives a column a width; null its usual one. */
  resize(key: string, width: number | null): void;
}

interface Kept {
  readonly hidden: readonly string[];
  readonly widths: readonly (readonly [string, number])[];
}

function keptOf(text: string | null | undefined): Kept {
  try {
    const kept = JSON.parse(text ?? '') as Partial<Kept> | null;
    const hidden = Array.isArray(kept?.hidden) ? kept.hidden.filter((each) => typeof each === 'string') : [];
    const widths = Array.isArray(kept?.widths) ? kept.widths.filter(([, width]) => width >= LEAST_WIDTH) : [];
    return { hidden, widths };
  } catch {
    return { hidden: [], widths: [] };
  }
}

/** The choice of columns of the table of a name, which the browser keeps for every recording. */
export function columnChoice(name: string): ColumnChoice {
  const place = `brisk-heron columns ${name}`;
  const kept = keptOf(globalThis.localStorage?.getItem(place));
  const hidden = shallowRef<ReadonlySet<string>>(new Set(kept.hidden));
  const widths = ref<ReadonlyMap<string, number>>(new Map(kept.widths));

  function keep(): void {
    const text = JSON.stringify({ hidden: [...hidden.value], widths: [...widths.value] } satisfies Kept);
    globalThis.localStorage?.setItem(place, text);
  }

  function toggle(key: string): void {
    const next = new Set(hidden.value);
    if (!next.delete(key)) next.add(key);
    hidden.value = next;
    keep();
  }

  function resize(key: string, width: number | null): void {
    const next = new Map(widths.value);
    if (width === null) next.delete(key);
    else next.set(key, Math.max(LEAST_WIDTH, Math.round(width)));
    widths.value = next;
    keep();
  }

  return { hidden, widths, toggle, resize };
}
