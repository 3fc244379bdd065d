import { asksForObjects, CHARGES, type Charge, type FindOption, type PauseStep, type Span } from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { CollectionDetail } from '../workers/answers/collection-detail.ts';
import type { CollectionsAnswer } from '../workers/answers/collections.ts';
import type { Look } from '../workers/answers/evidence.ts';
import type { KeyDetail } from '../workers/answers/key-detail.ts';
import type { MomentAnswer } from '../workers/answers/moment.ts';
import type { CollectionLines } from '../workers/collection-lines.ts';
import type { GrowthAnswer } from '../workers/answers/growth.ts';
import type { Overview } from '../workers/answers/overview.ts';
import type { RibbonAnswer } from '../workers/answers/ribbon.ts';
import type { Progress } from '../workers/progress.ts';
import type { LinkState, RunsTold } from '../workers/protocol.ts';
import { CancelledError, WorkerClient, type ClientHandlers } from '../workers/worker-client.ts';
import { partsAsker } from './asking.ts';
import { eventFilesOf } from './event-files.ts';
import { ledgerQuestions } from './ledger-questions.ts';
import { useLibrary } from './library.ts';
import { pauseQuestions } from './pause-questions.ts';
import { recordingNotebook } from './recording-notebook.ts';
import { siteQuestions } from './site-questions.ts';

export type ViewName = 'growth' | 'collections' | 'sites' | 'ledger';
export type RecorderCommand =
  | { readonly do: 'mark'; readonly label: string }
  | { readonly do: 'births'; readonly on?: boolean }
  | { readonly do: 'collect' }
  | { readonly do: 'interval'; readonly bytes: number };
/** What the drawer shows: a charge key, a pause, or what lived at an instant. */
export type Selection =
  | { readonly kind: 'key'; readonly charge: Charge; readonly key: number }
  | { readonly kind: 'pause'; readonly row: number }
  | { readonly kind: 'moment'; readonly tMs: number; readonly band: number | null; readonly againstMs: number | null }
  | null;

/** Parts of the screen that are asked for apart. */
type Part = 'ribbon' | 'overview' | 'view' | 'selection';
const ALL_PARTS: readonly Part[] = ['ribbon', 'overview', 'view', 'selection'];

const LEAST_WINDOW_MS = 20;
const RATE_SLICES = 120;
/** What is typed into the find field is looked for when the typing rests. */
const FIND_REST_MS = 150;

const CHARGE_KEY = 'brisk-heron charge';

// One choice for every recording, kept by the browser.
function rememberedCharge(): Charge {
  const kept = globalThis.localStorage?.getItem(CHARGE_KEY);
  return CHARGES.find((each) => each === kept) ?? 'ownFrame';
}

/** One open recording: the window and span looked at, what is selected, and the worker's answers to them. */
export const useWorkspace = defineStore('workspace', () => {
  const recordingId = ref('');
  const name = ref('');
  const durationMs = ref(0);
  const link = ref<LinkState>('none');
  const warning = ref('');
  const failure = ref('');
  /** What the server has and is still on its way here. */
  const behindBytes = ref(0);
  /** How the recorded program ended, in words; '' while it has not. */
  const endedHow = ref('');
  const loading = shallowRef<Progress | null>(null);
  const view = ref<ViewName>('growth');
  const charge = ref<Charge>(rememberedCharge());
  const find = ref('');
  const span = shallowRef<Span | null>(null);
  /** Window of the ribbon; null shows the whole recording. */
  const window = shallowRef<Span | null>(null);
  const selection = shallowRef<Selection>(null);
  const ribbonBins = ref(1000);
  const overview = shallowRef<(Overview & RunsTold) | null>(null);
  const ribbon = shallowRef<RibbonAnswer | null>(null);
  const growth = shallowRef<GrowthAnswer | null>(null);
  const collections = shallowRef<CollectionsAnswer | null>(null);
  const detail = shallowRef<KeyDetail | null>(null);
  /** True when of the key that is selected nothing is in the span or let through by the find. */
  const isGone = ref(false);
  const content = shallowRef<MomentAnswer | null>(null);
  const collection = shallowRef<CollectionDetail | null>(null);
  const lines = shallowRef<CollectionLines | null>(null);
  /** Label of the marks between which rounds lie; null for those that repeat most. */
  const rounds = ref<string | null>(null);
  const { refresh, isBusy } = partsAsker(ALL_PARTS, askParts);
  const { pauseKind, moment, goalMs, edgesMs, ...pauses } = pauseQuestions(
    (onRibbon) => void refresh('view', ...(onRibbon ? ['ribbon' as const] : [])),
  );
  const notes = recordingNotebook((notebook) => {
    void useLibrary().keepNotebook(recordingId.value, notebook).catch(fail);
    void client?.ask('note', { notebook }).catch(fail);
    void refresh('overview', 'view', 'selection');
  });
  const book = ledgerQuestions(() => void refresh('view'));
  const who = siteQuestions(() => void refresh('view'));
  const files = eventFilesOf(() => client && ((call, ask) => client!.ask(call, ask)));
  let client: WorkerClient | null = null;
  let asked = 0;

  const look = computed<Look>(() => ({
    span: span.value,
    charge: charge.value,
    find: (find.value ?? '').trim(),
    settleMs: notes.notebook.value.settleMs,
  }));
  const isLive = computed(() => link.value === 'live' || link.value === 'waiting' || link.value === 'behind');
  const shownWindow = computed<Span>(
    () => window.value ?? { fromMs: 0, toMs: Math.max(LEAST_WINDOW_MS, durationMs.value) },
  );
  /** The ribbon follows the head of a live recording until the engineer looks elsewhere. */
  const follows = computed(() => isLive.value && window.value === null);

  async function open(id: string): Promise<void> {
    close();
    recordingId.value = id;
    const streamId = id.startsWith('live-') ? id.slice(5) : '';
    loading.value = { doing: 'Opening', doneBytes: 0, totalBytes: NaN };
    const handlers: ClientHandlers = {
      onProgress: (progress) => {
        if (progress.doneRatio === undefined) loading.value = progress;
        else files.progress.value = progress;
      },
      onChanged: (changed) => {
        durationMs.value = changed.durationMs;
        link.value = changed.link;
        warning.value = changed.warning;
        behindBytes.value = changed.behindBytes;
        endedHow.value = changed.endedHow;
        if (changed.link === 'live') notes.keepHead(changed.durationMs);
        if (changed.durationMs > 0) void refresh();
      },
      onCrash: (message) => {
        failure.value = message;
      },
    };
    const opened = useLibrary().takeImported(id)?.handOver(handlers) ?? new WorkerClient(handlers);
    client = opened;
    try {
      const stored = await opened.ask('open', {
        recordingId: id,
        streamId,
        server: location.origin.replace(/^http/, 'ws'),
      });
      if (client !== opened) return;
      name.value = stored.name;
      notes.open(stored.notebook);
    } catch (error) {
      fail(error);
    }
  }

  // Answers to what was asked before the recording was changed or closed are dropped.
  async function askParts(parts: readonly Part[]): Promise<void> {
    const current = client;
    if (current === null || durationMs.value === 0) return;
    const turn = asked;
    const asks = { ribbon: askRibbon, overview: askOverview, view: askView, selection: askSelection };
    try {
      await Promise.all(parts.map((part) => asks[part](current, turn)));
      if (turn === asked) loading.value = null;
    } catch (error) {
      if (turn === asked) fail(error);
    }
  }

  async function askRibbon(from: WorkerClient, turn: number): Promise<void> {
    const answer = await from.ask('ribbon', {
      window: shownWindow.value,
      bins: ribbonBins.value,
      kind: pauseKind.value,
      look: look.value,
    });
    if (turn === asked) ribbon.value = answer;
  }

  async function askOverview(from: WorkerClient, turn: number): Promise<void> {
    const answer = await from.ask('overview', { look: look.value });
    if (turn !== asked) return;
    overview.value = answer;
    // What is remembered from another recording may not be told in this one.
    if (!answer.charges.includes(charge.value)) {
      charge.value = 'ownFrame';
      void refresh('view', 'selection');
    }
    if (name.value === '' || `live-${name.value}` === recordingId.value) name.value = answer.program || name.value;
  }

  async function askView(from: WorkerClient, turn: number): Promise<void> {
    switch (view.value) {
      case 'growth': {
        const answer = await from.ask('growth', { look: look.value, rounds: rounds.value });
        if (turn === asked) growth.value = answer;
        return;
      }
      case 'collections': {
        const answer = await from.ask('collections', {
          span: span.value,
          slices: RATE_SLICES,
          goalMs: goalMs.value,
          edgesMs: edgesMs.value,
          kind: pauseKind.value,
        });
        if (turn === asked) collections.value = answer;
        return;
      }
      case 'ledger':
        return book.ask(
          (ask) => from.ask('ledger', ask),
          look.value,
          () => turn === asked,
        );
      case 'sites':
        return who.ask(
          (call, ask) => from.ask(call, ask),
          look.value,
          () => turn === asked,
        );
    }
  }

  async function askSelection(from: WorkerClient, turn: number): Promise<void> {
    const chosen = selection.value;
    if (chosen === null) return;
    if (chosen.kind === 'key') {
      const answer = await from.ask('key', { look: look.value, charge: chosen.charge, key: chosen.key });
      if (turn !== asked) return;
      detail.value = answer;
      isGone.value = answer === null;
    } else if (chosen.kind === 'moment') {
      const answer = await from.ask('moment', {
        look: look.value,
        tMs: chosen.tMs,
        band: chosen.band,
        againstMs: chosen.againstMs,
      });
      if (turn === asked) content.value = answer;
    } else {
      const answer = await from.ask('collection', { row: chosen.row });
      if (turn !== asked) return;
      collection.value = answer;
      const told = await from.ask('lines', { row: chosen.row });
      if (turn === asked && collection.value === answer) lines.value = told;
    }
  }

  let resting: ReturnType<typeof setTimeout> | undefined;
  watch(
    () => look.value.find,
    () => {
      clearTimeout(resting);
      resting = setTimeout(() => void refresh('ribbon', 'view', 'selection'), FIND_REST_MS);
    },
  );

  /** What may stand in the find field at the caret; nothing while no recording answers. */
  async function complete(text: string, caret: number): Promise<readonly FindOption[]> {
    return client?.ask('complete', { text, caret }).catch(() => []) ?? [];
  }

  /** Looks at some heaps only; null for all. Rows of pauses are others then. */
  async function chooseHeaps(heaps: readonly number[] | null): Promise<void> {
    await client?.ask('chooseHeaps', { heaps });
    select(null);
    await refresh();
  }

  function fail(error: unknown): void {
    if (error instanceof CancelledError) return;
    failure.value = error instanceof Error ? error.message : String(error);
    loading.value = null;
  }

  function select(chosen: Selection): void {
    selection.value = chosen;
    isGone.value = false;
    if (chosen?.kind !== 'pause') lines.value = null;
    void refresh('selection');
  }

  /**
   * Shows what lived at an instant, of one band or of all; beside another instant when one was chosen to compare with.
   */
  function lookInto(tMs: number, band: number | null = null, againstMs: number | null = null): void {
    select({ kind: 'moment', tMs: Math.min(Math.max(0, tMs), durationMs.value), band, againstMs });
  }

  /** Goes from the selected pause to another, inside the span. Answers whether there is one. */
  async function step(how: PauseStep): Promise<boolean> {
    const from = client;
    if (from === null) return false;
    const row = selection.value?.kind === 'pause' ? selection.value.row : -1;
    const answer = await from.ask('step', {
      row,
      step: how,
      span: span.value,
      by: pauseKind.value?.by ?? 'label',
      fromMs: moment.value?.fromMs ?? window.value?.fromMs ?? null,
    });
    if (answer.row >= 0) select({ kind: 'pause', row: answer.row });
    return answer.row >= 0;
  }

  /** Selects the last pause that began by an instant. */
  async function selectPauseAt(tMs: number): Promise<void> {
    const answer = await client?.ask('step', { row: -1, step: 'previous', span: null, by: 'label', fromMs: tMs });
    if (answer !== undefined && answer.row >= 0) select({ kind: 'pause', row: answer.row });
  }

  function setRounds(label: string): void {
    rounds.value = label;
    void refresh('view');
  }

  /** Looks at another run of the file. */
  async function chooseRun(run: number): Promise<void> {
    const from = client;
    if (from === null) return;
    const answer = await from.ask('chooseRun', { run });
    durationMs.value = answer.durationMs;
    span.value = null;
    window.value = null;
    selection.value = null;
    pauses.resetRun();
    await refresh();
  }

  function setSpan(chosen: Span | null): void {
    span.value = chosen;
    // Ages and fates are by the span's end: the ribbon shows others then.
    void refresh('overview', 'view', 'selection', ...(asksForObjects(look.value.find) ? ['ribbon' as const] : []));
  }

  /** Shows a window of time, kept inside the recording; null shows all of it. */
  function setWindow(chosen: Span | null): void {
    if (chosen === null) window.value = null;
    else {
      const length = Math.min(durationMs.value, Math.max(LEAST_WINDOW_MS, chosen.toMs - chosen.fromMs));
      const fromMs = Math.min(Math.max(0, chosen.fromMs), durationMs.value - length);
      window.value = length >= durationMs.value && !isLive.value ? null : { fromMs, toMs: fromMs + length };
    }
    void refresh('ribbon');
  }

  function show(next: ViewName): void {
    view.value = next;
    void refresh('view');
  }

  function chargeTo(next: Charge): void {
    charge.value = next;
    globalThis.localStorage?.setItem(CHARGE_KEY, next);
    selection.value = selection.value?.kind === 'key' ? null : selection.value;
    void refresh('view', 'selection');
  }

  /** Asks something of the recorded program. Answers what went wrong, '' for nothing. */
  async function command(wanted: RecorderCommand): Promise<string> {
    const response = await fetch(`/api/streams/${encodeURIComponent(recordingId.value.slice(5))}/commands`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(wanted),
    }).catch(() => null);
    return response?.ok === true ? '' : 'the program is not connected, so nothing can be asked of it';
  }

  function close(): void {
    const closing = client;
    void closing
      ?.ask('close', {})
      .catch(() => undefined)
      .finally(() => closing.close());
    client = null;
    asked++;
    name.value = '';
    durationMs.value = 0;
    link.value = 'none';
    warning.value = '';
    failure.value = '';
    loading.value = null;
    span.value = null;
    window.value = null;
    selection.value = null;
    rounds.value = null;
    pauses.reset();
    find.value = '';
    notes.open(undefined);
    lines.value = null;
    for (const answer of [overview, ribbon, growth, collections, detail, content, collection]) answer.value = null;
    who.reset();
    book.reset();
  }

  return {
    recordingId,
    name,
    durationMs,
    link,
    warning,
    behindBytes,
    endedHow,
    failure,
    loading,
    view,
    charge,
    find,
    span,
    window,
    selection,
    ribbonBins,
    overview,
    ribbon,
    growth,
    collections,
    detail,
    content,
    collection,
    lines,
    who,
    book,
    files,
    moment,
    pauseKind,
    goalMs,
    edgesMs,
    isLive,
    isBusy,
    isGone,
    look,
    shownWindow,
    follows,
    notebook: notes.notebook,
    momentEveryMs: notes.momentEveryMs,
    writeNotebook: notes.write,
    keepMoment: notes.keepMoment,
    dropMoment: notes.dropMoment,
    open,
    refresh,
    complete,
    chooseHeaps,
    select,
    lookInto,
    selectPauseAt,
    step,
    lookAt: pauses.lookAt,
    pickKind: pauses.pickKind,
    setGoal: pauses.setGoal,
    setEdges: pauses.setEdges,
    setRounds,
    chooseRun,
    setSpan,
    setWindow,
    show,
    chargeTo,
    command,
    close,
  };
});
