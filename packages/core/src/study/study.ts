import { roundMarks } from '../analysis/rounds.ts';
import type { Span } from '../base/span.ts';
import { EMPTY_NOTEBOOK, type Notebook } from '../formats/recording-file/notebook.ts';
import type { Charge } from '../model/charge.ts';
import { heapsPart } from '../model/recording-part.ts';
import type { Recording } from '../model/recording.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { piece } from './piece.ts';
import { applySettings, type Settings, settingsOf } from './settings.ts';
import { type Side, WHOLE_SIDE } from './side.ts';
import { type Look, Subject } from './subject.ts';

/** Where the runs of a study come from; more may come while it is live. */
export interface RunSource {
  readonly runs: readonly Recording[];
}

/** How a question wants objects counted and picked. */
export interface LookAsk {
  readonly charge?: Charge | undefined;
  readonly find?: string | undefined;
}

/** What was read of one input, all runs of it, with what the engineer noted: what every answer about it rests on. */
export class Study {
  private readonly source: RunSource;
  private readonly over: Partial<Settings>;
  private readonly subjects = new WeakMap<Recording, Subject>();
  private noted: Notebook;
  /** What of the input is not here, in words; '' where all is. */
  missing = '';
  /** What the engineer calls it; '' where nothing but its program's name is known. */
  name = '';

  /** `over` are settings that hold whatever the notebook says. */
  constructor(source: RunSource, notebook: Notebook = EMPTY_NOTEBOOK, over: Partial<Settings> = {}) {
    this.source = source;
    this.noted = notebook;
    this.over = over;
  }

  /** What is noted from now on. */
  note(notebook: Notebook): void {
    this.noted = notebook;
  }

  get settings(): Settings {
    return settingsOf(this.noted, this.over);
  }

  /** Runs of the input, with the settings in force. */
  get runs(): readonly Recording[] {
    for (const run of this.source.runs) applySettings(run, this.settings);
    return this.source.runs;
  }

  /** One run, the last for null. @throws when nothing readable has come yet, or there is no such run. */
  run(run: number | null = null): Recording {
    const { runs } = this.source;
    const recording = runs[run ?? runs.length - 1];
    if (recording === undefined)
      throw new Error(
        runs.length === 0
          ? 'nothing of this recording has arrived yet'
          : `expected a run from 1 to ${runs.length}, found ${(run ?? 0) + 1}`,
      );
    applySettings(recording, this.settings);
    if (this.missing !== '') recording.missing = this.missing;
    return recording;
  }

  /** What a side of a question is. @throws when the recording has no such run, heap or round. */
  side(side: Side): StudySide {
    const all = this.subjectOf(this.run(side.run));
    const unknown = side.heaps?.find((heapId) => heapId >= all.recording.heaps.length);
    if (unknown !== undefined)
      throw new Error(`expected heaps up to number ${all.recording.heaps.length - 1}, found ${unknown}`);
    const subject = side.heaps === null ? all : all.get(OF_HEAPS, [...side.heaps]);
    return new StudySide(this, subject, side);
  }

  private subjectOf(recording: Recording): Subject {
    let subject = this.subjects.get(recording);
    if (subject === undefined) this.subjects.set(recording, (subject = new Subject(recording)));
    return subject;
  }
}

const OF_HEAPS = piece(
  'heaps',
  (subject: Subject, heaps: readonly number[]) => new Subject(heapsPart(subject.recording, heaps)),
  1,
);

/** One side of a question, as measures see it. */
export class StudySide {
  readonly study: Study;
  readonly subject: Subject;
  /** Null for the whole recording. */
  readonly span: Span | null;
  /** The instant, where the side is one; null elsewhere. */
  readonly momentMs: number | null;

  constructor(study: Study, subject: Subject, asked: Side) {
    this.study = study;
    this.subject = subject;
    this.span = spanOf(subject.recording, asked);
    this.momentMs = asked.extent.kind === 'moment' ? asked.extent.tMs : null;
  }

  get recording(): Recording {
    return this.subject.recording;
  }

  /** How this side is looked at by a question. */
  look({ charge = 'ownFrame', find = '' }: LookAsk = {}): Look {
    return { span: this.span, charge, find: find.trim(), settleMs: this.study.settings.settleMs };
  }

  /** This side, where it is a moment, as all that was until then: what is kept of that is what lived at the moment. */
  untilMoment(): StudySide {
    if (this.momentMs === null) return this;
    const extent = { kind: 'span', fromMs: wholeSpan(this.recording).fromMs, toMs: this.momentMs } as const;
    return new StudySide(this.study, this.subject, { ...WHOLE_SIDE, extent });
  }

  /** The objects that a question's find lets through. */
  found(ask: LookAsk = {}): Subject {
    return this.subject.within(this.look(ask));
  }
}

function spanOf(recording: Recording, { extent }: Side): Span | null {
  switch (extent.kind) {
    case 'whole':
    case 'moment':
      return null;
    case 'span':
      if (!(extent.fromMs < extent.toMs))
        throw new Error(`expected a span that ends after it begins, found ${extent.fromMs} to ${extent.toMs} ms`);
      return { fromMs: extent.fromMs, toMs: extent.toMs };
    case 'round': {
      const marks = roundMarks(recording, wholeSpan(recording), extent.label);
      const [fromMs, toMs] = [marks[extent.number - 1], marks[extent.number]];
      if (fromMs === undefined || toMs === undefined)
        throw new Error(
          marks.length < 2
            ? `expected a mark that was set more than once, found none called “${extent.label}”`
            : `expected a round of “${extent.label}” from 1 to ${Math.max(0, marks.length - 1)}, found ${extent.number}`,
        );
      return { fromMs, toMs };
    }
  }
}
