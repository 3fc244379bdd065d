import { repeatedMarks, type RoundFigures, roundTable } from '../analysis/rounds.ts';
import { type SectionFigures, type SectionKey, sectionTable } from '../analysis/sections.ts';
import type { Look, Subject } from '../study/subject.ts';
import { keyWords, type KeyWords, typeWord } from './key-words.ts';

/** A key's rounds with its words. */
export interface RoundRow extends Omit<RoundFigures, 'key'>, KeyWords {
  readonly type: string | null;
}

/** What a key's births in a section leave, with its words. */
export interface SectionRow extends Omit<SectionKey, 'key'>, KeyWords {}

/** What rounds leave to the end, by the section of the round in which it was born. */
export interface SectionsAnswer {
  readonly rounds: number;
  readonly countedMs: number;
  readonly sections: readonly SectionFigures[];
  readonly rows: readonly SectionRow[];
}

/** What the rounds of a mark that repeats leave. */
export interface RoundsAnswer {
  readonly labels: readonly { readonly label: string; readonly times: number }[];
  readonly label: string;
  readonly marksMs: Float64Array;
  readonly collected: number;
  readonly rows: readonly RoundRow[];
  /** Null where no other marks cut the rounds. */
  readonly sections: SectionsAnswer | null;
}

const MOST_ROWS = 60;

/** Rounds of the label, else of the mark that repeats most; null when no mark repeats where objects were followed. */
export function roundsOf(subject: Subject, look: Look, wanted: string | null): RoundsAnswer | null {
  const { recording } = subject;
  const span = subject.spanOf(look);
  const labels = repeatedMarks(recording, span);
  const label = labels.find((each) => each.label === wanted)?.label ?? labels[0]?.label;
  const table = label === undefined ? null : roundTable(recording, span, label, look.charge, subject.chosen(look.find));
  if (table === null) return null;
  const cut = sectionTable(recording, span, table.label, look.charge, subject.chosen(look.find));
  return {
    labels,
    label: table.label,
    marksMs: table.marksMs,
    collected: table.collected,
    rows: table.keys
      .slice(0, MOST_ROWS)
      .map((key) => ({ ...key, ...keyWords(recording, look.charge, key.key), type: typeWord(recording, key.typeId) })),
    sections:
      cut === null
        ? null
        : {
            ...{ rounds: cut.rounds, countedMs: cut.countedMs, sections: cut.sections },
            rows: cut.keys
              .slice(0, MOST_ROWS)
              .map(({ key, ...figures }) => ({ ...figures, ...keyWords(recording, look.charge, key) })),
          },
  };
}
