import {
  asksForObjects,
  type Charge,
  type FindOption,
  type Overview,
  type PauseStep,
  type RibbonAnswer,
  type Span,
} from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { nextTick, ref, shallowRef, watch } from 'vue';
import type { WorkerClient } from '../worker/worker-client.ts';
import type { AddressMembers } from './address.ts';
import { aheadAsker } from './ahead.ts';
import { partsAsker } from './asking.ts';
import { eventFilesOf } from './event-files.ts';
import { useLibrary } from './library.ts';
import { linkState } from './link.ts';
import { lookState } from './look.ts';
import { clientState } from './open-client.ts';
import { pauseQuestions } from './pause-questions.ts';
import type { Asking, Question, QuestionState } from './question.ts';
import { commandRecorder, type RecorderCommand } from './recorder-commands.ts';
import { recordingNotebook } from './recording-notebook.ts';
import { type Selection, selectionState } from './selection.ts';

export type { RecorderCommand } from './recorder-commands.ts';
export type { Selection } from './selection.ts';

/** Parts of the screen that are asked for apart. */
type Part = 'ribbon' | 'overview' | 'view' | 'selection' | 'rest';
const ALL_PARTS: readonly Part[] = ['ribbon', 'overview', 'view', 'selection'];

/** What is typed into the find field is looked for when the typing rests. */
const FIND_REST_MS = 150;

/** One open recording: the state of everything around its questions, and the asking for what the screen shows. */
class Workspace {
  readonly recordingId = ref('');
  readonly name = ref('');
  readonly overview = shallowRef<Overview | null>(null);
  readonly ribbon = shallowRef<RibbonAnswer | null>(null);
  readonly ribbonBins = ref(1000);
  /** The questions of the rail, in its order. */
  readonly questions = shallowRef<readonly Question[]>([]);
  /** Id of the question that is shown. */
  readonly view = ref('growth');
  readonly link = linkState();
  readonly look = lookState(this.recordingId, this.link.durationMs, this.link.isLive);
  readonly selected = selectionState();
  readonly asker = partsAsker(ALL_PARTS, (parts, isDue) => this.askParts(parts, isDue));
  readonly pauses = pauseQuestions((onRibbon) => this.refresh('view', ...(onRibbon ? ['ribbon' as const] : [])));
  readonly client = clientState({
    onWriting: (progress) => {
      this.files.progress.value = progress;
    },
    onChanged: (changed) => {
      // Of the recording beside it the view alone is told.
      if (changed.recordingId !== this.recordingId.value) {
        if (changed.link === 'live' || changed.link === 'behind') this.refresh('view');
        return;
      }
      this.link.take(changed);
      const run = this.overview.value?.runs[this.look.run.value ?? -1];
      this.link.durationMs.value = run?.durationMs ?? changed.durationMs;
      if (changed.link === 'live') this.notes.keepHead(changed.durationMs);
      if (changed.durationMs > 0) this.refresh();
    },
    onCrash: (message) => {
      this.client.failure.value = message;
    },
  });
  readonly notes = recordingNotebook((notebook) => {
    void useLibrary().keepNotebook(this.recordingId.value, notebook).catch(this.client.fail);
    void this.client.at()?.ask('note', { recordingId: this.recordingId.value, notebook }).catch(this.client.fail);
    this.refresh('overview', 'view', 'selection');
  });
  readonly files = eventFilesOf(() => {
    const client = this.client.at();
    return client === null ? null : { ask: (call, ask) => client.ask(call, ask), side: () => this.look.side.value };
  });
  /** False while a recording opens: what the address lacks then is no step of the engineer's. */
  readonly isSettled = ref(false);
  /** True once all that is stored has been read. */
  readonly isRead = ref(false);
  private resting: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    watch(
      () => this.look.look.value.find,
      () => {
        clearTimeout(this.resting);
        this.resting = setTimeout(() => this.refresh('ribbon', 'view', 'selection'), FIND_REST_MS);
      },
    );
  }

  private readonly ahead = aheadAsker();
  /** What the view asks once all else is answered. */
  private rest: (() => Promise<void>) | null = null;

  readonly refresh = (...parts: readonly Part[]): void => void this.asker.refresh(...parts);

  /** Opens a recording at the look that its address tells. */
  readonly open = async (id: string, view?: string, members: AddressMembers = new Map()): Promise<void> => {
    this.close();
    this.recordingId.value = id;
    this.readAddress(view ?? this.view.value, members);
    try {
      const stored = await this.client.open(id);
      if (stored === null) return;
      this.name.value = stored.name;
      this.notes.open(stored.notebook);
      this.isRead.value = true;
    } catch (error) {
      this.client.fail(error);
    }
  };

  // Answers to what was asked before the recording was changed or closed are dropped.
  private async askParts(parts: readonly Part[], isDue: (part: Part) => boolean): Promise<void> {
    const client = this.client.at();
    if (client === null || this.link.durationMs.value === 0) return;
    const isCurrent = this.client.currently();
    const asks = {
      ribbon: this.askRibbon,
      overview: this.askOverview,
      view: this.askView,
      selection: this.askSelection,
      rest: this.askRest,
    };
    const side = this.look.side.value;
    const asking: Asking = {
      measure: (measure, ask) => client.measure(side, measure, ask),
      measureOf: (side, measure, ask) => client.measure(side, measure, ask),
      pair: (sides, measure, ask) => client.pair(sides, measure, ask),
      openBeside: (id) => this.client.openBeside(id),
      side,
      look: this.look.look.value,
      later: (rest) => {
        this.rest = rest;
        this.refresh('rest');
      },
      isCurrent,
    };
    const failures: unknown[] = [];
    // One after the other, for the worker answers one at a time: what is wanted anew meanwhile is passed over.
    for (const part of this.inOrder(parts)) {
      if (isDue(part)) continue;
      await asks[part](asking, client).catch((error: unknown) => failures.push(error));
      if (!isCurrent()) return;
    }
    if (failures.length === 0) this.client.loading.value = null;
    // An address may tell of what is not there: the recording is shown without it then.
    else if (this.overview.value === null && this.look.isNarrowed()) this.lookAnew(failures[0]);
    else this.client.fail(failures[0]);
  }

  // What the engineer looks at comes first; but what is known of the recording as a whole before all else.
  private inOrder(parts: readonly Part[]): readonly Part[] {
    const order: readonly Part[] =
      this.overview.value === null
        ? ['overview', 'ribbon', 'view', 'selection', 'rest']
        : ['ribbon', 'view', 'overview', 'selection', 'rest'];
    return order.filter((part) => parts.includes(part));
  }

  private lookAnew(error: unknown): void {
    this.look.reset();
    this.selected.put(null);
    this.link.warning.value = `The address tells of what is not in this recording (${error instanceof Error ? error.message : String(error)}): all of it is shown.`;
    this.refresh();
  }

  private stateOf(view: string): QuestionState | undefined {
    return this.questions.value.find(({ id }) => id === view)?.state();
  }

  /** The members of the address of a question's view, as everything is set now. */
  readonly addressOf = (view: string): AddressMembers =>
    new Map(
      [this.look.address, this.selected.address, this.pauses.address, this.stateOf(view)?.address]
        .flatMap((part) => part?.write() ?? [])
        .sort(([a], [b]) => Number(a > b) - Number(a < b)),
    );

  private readAddress(view: string, members: AddressMembers): void {
    this.view.value = view;
    for (const part of [this.look.address, this.selected.address, this.pauses.address, this.stateOf(view)?.address])
      part?.read(members);
  }

  /** Opens the recording again, at the same look. */
  readonly reopen = (): Promise<void> =>
    this.open(this.recordingId.value, this.view.value, this.addressOf(this.view.value));

  /** Shows the look that an address tells, as *back* does. */
  readonly takeAddress = (view: string, members: AddressMembers): void => {
    this.readAddress(view, members);
    this.look.fit();
    this.refresh();
  };

  private readonly askRibbon = async ({ measure, look, isCurrent }: Asking): Promise<void> => {
    const [window, bins, kind] = [this.look.shownWindow.value, this.ribbonBins.value, this.pauses.pauseKind.value];
    const answer = await measure('ribbon', {
      ...look,
      window: { fromMs: window.fromMs, toMs: window.toMs },
      bins,
      kind,
    });
    if (isCurrent()) this.ribbon.value = answer;
  };

  private readonly askOverview = async ({ measure, isCurrent }: Asking): Promise<void> => {
    const answer = await measure('overview', {});
    if (!isCurrent()) return;
    const isFirst = this.overview.value === null;
    this.overview.value = answer;
    if (isFirst) this.look.fit();
    void nextTick(() => {
      this.isSettled.value = this.overview.value === answer;
    });
    // What is remembered from another recording may not be told in this one.
    if (!answer.charges.includes(this.look.charge.value)) {
      this.look.charge.value = 'ownFrame';
      this.refresh('view', 'selection');
    }
    const isUnnamed = this.name.value === '' || `live-${this.name.value}` === this.recordingId.value;
    if (isUnnamed) this.name.value = answer.program || this.name.value;
  };

  private readonly askView = async (asking: Asking): Promise<void> => {
    this.rest = null;
    await this.stateOf(this.view.value)?.ask(this.ahead.noting(asking));
  };

  private readonly askRest = async (): Promise<void> => {
    const { rest } = this;
    this.rest = null;
    await rest?.();
  };

  private readonly askSelection = (asking: Asking, client: WorkerClient): Promise<void> =>
    this.selected.ask(asking, (row) => client.ask('lines', { side: this.look.side.value, row }));

  /** What may stand in the find field at the caret; nothing while no recording answers. */
  readonly complete = async (text: string, caret: number): Promise<readonly FindOption[]> => {
    const client = this.client.at();
    return client?.measure(this.look.wholeSide.value, 'completion', { text, caret }).catch(() => []) ?? [];
  };

  readonly select = (chosen: Selection): void => {
    this.selected.put(chosen);
    this.refresh('selection');
  };

  /**
   * Shows what lived at an instant, of one band or of all; beside another instant when one was chosen to compare with.
   */
  readonly lookInto = (tMs: number, band: number | null = null, againstMs: number | null = null): void =>
    this.select({ kind: 'moment', tMs: Math.min(Math.max(0, tMs), this.link.durationMs.value), band, againstMs });

  /** Goes from the selected pause to another, inside the span. Answers whether there is one. */
  readonly step = async (how: PauseStep): Promise<boolean> => {
    const selected = this.selected.selection.value;
    const fromMs = this.pauses.moment.value?.fromMs ?? this.look.window.value?.fromMs ?? null;
    const by = this.pauses.pauseKind.value?.by ?? 'label';
    const row = selected?.kind === 'pause' ? selected.row : -1;
    const answer = await this.client.at()?.measure(this.look.side.value, 'pauseStep', { row, step: how, by, fromMs });
    if (answer === undefined || answer.row < 0) return false;
    this.select({ kind: 'pause', row: answer.row });
    return true;
  };

  /** Selects the last pause that began by an instant. */
  readonly selectPauseAt = async (fromMs: number): Promise<void> => {
    const client = this.client.at();
    const answer = await client?.measure(this.look.wholeSide.value, 'pauseStep', { step: 'previous', fromMs });
    if (answer !== undefined && answer.row >= 0) this.select({ kind: 'pause', row: answer.row });
  };

  /** Looks at some heaps only; null for all. Rows of pauses are others then. */
  readonly chooseHeaps = async (heaps: readonly number[] | null): Promise<void> => {
    this.look.heaps.value = heaps;
    this.selected.put(null);
    await this.asker.refresh();
  };

  /** Looks at another run of the file. */
  readonly chooseRun = async (run: number): Promise<void> => {
    this.look.run.value = run;
    this.link.durationMs.value = this.overview.value?.runs[run]?.durationMs ?? this.link.durationMs.value;
    this.look.resetRun();
    this.selected.put(null);
    this.pauses.resetRun();
    await this.asker.refresh();
  };

  readonly setSpan = (chosen: Span | null): void => {
    this.look.putSpan(chosen);
    // Ages and fates are by the span's end: the ribbon shows others then.
    const withRibbon = asksForObjects(this.look.look.value.find) ? (['ribbon'] as const) : [];
    this.refresh('overview', 'view', 'selection', ...withRibbon);
  };

  /** The pointer rests at a span that it has not chosen yet. A live recording is another one by then. */
  readonly expectSpan = (span: Span): void => {
    if (!this.link.isLive.value) this.ahead.expect(this.look.wholeSide.value, span);
  };

  /** Watches what changes from an instant on: the span goes on to the head. */
  readonly watchSince = (tMs: number): void => this.setSpan({ fromMs: tMs, toMs: Infinity });

  /** Shows a window of time, kept inside the recording; null shows all of it. */
  readonly setWindow = (chosen: Span | null): void => {
    this.look.putWindow(chosen);
    this.refresh('ribbon');
  };

  readonly show = (next: string): void => {
    this.view.value = next;
    this.refresh('view');
  };

  readonly chargeTo = (next: Charge): void => {
    this.look.putCharge(next);
    if (this.selected.selection.value?.kind === 'key') this.selected.put(null);
    this.refresh('view', 'selection');
  };

  /** Asks something of the recorded program. Answers what went wrong, '' for nothing. */
  readonly command = (wanted: RecorderCommand): Promise<string> =>
    commandRecorder(this.recordingId.value.slice(5), wanted);

  readonly close = (): void => {
    this.client.close(this.recordingId.value);
    this.recordingId.value = '';
    this.name.value = '';
    this.rest = null;
    this.ahead.reset();
    this.link.reset();
    this.look.reset();
    this.selected.reset();
    this.pauses.reset();
    this.notes.open(undefined);
    this.overview.value = this.ribbon.value = null;
    this.isSettled.value = this.isRead.value = false;
    for (const question of this.questions.value) question.state().reset();
  };
}

/** One open recording: the window and span looked at, what is selected, and the worker's answers to them. */
export const useWorkspace = defineStore('workspace', () => {
  const own = new Workspace();
  const { durationMs, link, warning, behindBytes, endedHow, isLive } = own.link;
  const { charge, find, span, window, run, heaps, look, shownWindow, follows, isOpen } = own.look;
  const { selection, detail, isGone, content, collection, lines } = own.selected;
  const { pauseKind, moment, goalMs, edgesMs, lookAt, pickKind, setGoal, setEdges } = own.pauses;
  const { notebook, momentEveryMs, write: writeNotebook, keepMoment, dropMoment } = own.notes;
  const { recordingId, name, overview, ribbon, ribbonBins, questions, view, files } = own;
  const { open, complete, select, lookInto, step, selectPauseAt, chooseHeaps, chooseRun } = own;
  const { expectSpan, setSpan, setWindow, watchSince, show, chargeTo, command, close } = own;
  const { addressOf, takeAddress, reopen, isSettled, isRead } = own;
  const { loading, failure } = own.client;
  return {
    ...{ durationMs, link, warning, behindBytes, endedHow, isLive },
    ...{ charge, find, span, window, run, heaps, look, shownWindow, follows, isOpen },
    ...{ selection, detail, isGone, content, collection, lines },
    ...{ pauseKind, moment, goalMs, edgesMs, lookAt, pickKind, setGoal, setEdges },
    ...{ notebook, momentEveryMs, writeNotebook, keepMoment, dropMoment },
    ...{ recordingId, name, overview, ribbon, ribbonBins, questions, view, files, loading, failure },
    ...{ open, complete, select, lookInto, step, selectPauseAt, chooseHeaps, chooseRun },
    ...{ expectSpan, setSpan, setWindow, watchSince, show, chargeTo, command, close },
    ...{ addressOf, takeAddress, reopen, isSettled, isRead },
    ...{ refresh: own.asker.refresh, isBusy: own.asker.isBusy },
  };
});
