<script setup lang="ts">
import {
  csvText,
  formatBytes,
  formatClock,
  formatPercent,
  type MomentAnswer,
  type Span,
  Z_95,
} from '@brisk-heron/core';
import { computed, ref, watch } from 'vue';
import KeyName from '../components/KeyName.vue';
import InlineSelect from '../components/InlineSelect.vue';
import TakeTable from '../components/TakeTable.vue';
import { CHARGE_WORDS, countText, exactBytes, plusMinus, shortType } from '../components/figures.ts';
import ChargeControl from '../look-controls/ChargeControl.vue';
import { useChanges } from '../questions/changes/changes-state.ts';
import { useWorkspace } from '../stores/workspace.ts';

/** The heap's content at an instant, and what changed against another one. */
const props = defineProps<{ answer: MomentAnswer }>();
const workspace = useWorkspace();
const changes = useChanges();
const MOST_ROWS = 25;
const name = ref('');

const kept = computed(() => workspace.notebook.moments.find((moment) => moment.tMs === props.answer.tMs) ?? null);
watch(
  () => props.answer.tMs,
  () => {
    name.value = kept.value?.name ?? '';
  },
  { immediate: true },
);
const others = computed(() => workspace.notebook.moments.filter((moment) => moment.tMs !== props.answer.tMs));
const against = computed(() => (workspace.selection?.kind === 'moment' ? workspace.selection.againstMs : null));
const keyText = <T extends { readonly name: string }>(row: T): T =>
  workspace.charge === 'type' ? { ...row, name: shortType(row.name) } : row;
const born = ({ fromMs, toMs }: Span): string => `${formatClock(fromMs, true)} – ${formatClock(toMs, true)}`;
const share = (bytes: number): number => (props.answer.total.bytes > 0 ? bytes / props.answer.total.bytes : 0);
const signed = (bytes: number): string => `${bytes > 0 ? '+' : ''}${formatBytes(bytes)}`;
const amount = (bytes: number): string => (bytes > 0 ? formatBytes(bytes) : '–');
/** Finds what was born between the two and lives at the later. */
function findCame({ fromMs, toMs }: Span, more = ''): void {
  workspace.setSpan({ fromMs: 0, toMs });
  workspace.find = `born=${formatClock(fromMs, true)}..${formatClock(toMs, true)} fate=kept fate=recent${more}`;
}
/** All until this moment beside what is looked at. */
function compareSince(): void {
  const part = { run: workspace.run, extent: { kind: 'moment', tMs: props.answer.tMs } } as const;
  changes.compareWith(workspace.recordingId, part, false);
  changes.set({ mode: 'keys', of: 'kept' });
  workspace.show('changes');
}
const band = computed(() => (workspace.selection?.kind === 'moment' ? workspace.selection.band : null));

const exactly = ({ bytes, bytesSe }: { readonly bytes: number; readonly bytesSe: number }): string =>
  [exactBytes(bytes), plusMinus(bytesSe)].join(' ').trim();

// Every key that is here, those beyond the list included.
function csv(): string {
  const key = CHARGE_WORDS[workspace.charge];
  const words = (row: { readonly name: string; readonly place: string }): string => `${row.name} ${row.place}`.trim();
  const { against: changes, rows } = props.answer;
  if (changes)
    return csvText(
      [key, 'before', 'after', 'in both', 'went', 'came', 'change', 'change ±'],
      changes.rows.map((row) => [
        words(row),
        row.beforeBytes,
        row.afterBytes,
        row.bothBytes,
        row.wentBytes,
        row.cameBytes,
        row.afterBytes - row.beforeBytes,
        Z_95 * row.changeSe,
      ]),
    );
  return csvText(
    [key, 'bytes', 'bytes ±', 'objects', 'samples'],
    rows.map((row) => [words(row), row.bytes, Z_95 * row.bytesSe, row.count, row.samples]),
  );
}

const objectsText = computed(() => {
  const { count, samples } = props.answer.total;
  const seen = samples.toLocaleString('en');
  return Number.isNaN(count) ? `${seen} samples` : `about ${countText(count)} objects, ${seen} seen`;
});
/** An instant before every recording: none is chosen. */
const NO_MOMENT = -1e15;
const againstOptions = computed<(readonly [number, string])[]>(() => [
  [NO_MOMENT, 'no other moment'],
  ...(against.value !== null && !others.value.some(({ tMs }) => tMs === against.value)
    ? [[against.value, formatClock(against.value, true)] as const]
    : []),
  ...others.value.map(({ tMs, name: called }) => {
    const clock = formatClock(tMs, true);
    return [tMs, called === clock ? called : `${called} (${clock})`] as const;
  }),
]);
</script>

<template>
  <div data-test="moment">
    <h2 class="title">What lived at {{ formatClock(answer.tMs, true) }}</h2>
    <p v-if="!answer.followed" class="quiet">
      No object was followed at this instant: a recorder that watches births does not see what stays. Choose another
      one.
    </p>
    <p v-else class="quiet">
      {{ `${formatBytes(answer.total.bytes)} ${plusMinus(answer.total.bytesSe)}`.trim()
      }}<template v-if="answer.band">, born {{ born(answer.band.born) }}</template
      >; {{ objectsText }}<template v-if="workspace.find"> that match “{{ workspace.find }}”</template>
      <template v-if="answer.band"
        >. <v-btn variant="plain" @click="workspace.lookInto(answer.tMs)">every age</v-btn></template
      >
    </p>
    <form class="keep condensed" @submit.prevent="workspace.keepMoment(answer.tMs, name)">
      <v-text-field v-model="name" aria-label="Name of the moment" placeholder="name" maxlength="200" />
      <v-btn variant="plain" type="submit">{{ kept ? 'rename' : 'keep this moment' }}</v-btn>
      <v-btn v-if="kept" variant="plain" class="quiet" @click="workspace.dropMoment(answer.tMs)"> drop it </v-btn>
    </form>
    <span v-if="others.length > 0 || against !== null" class="condensed"
      >compared with{{ ' ' }}
      <InlineSelect
        data-test="against"
        label="Compared with"
        :value="against ?? NO_MOMENT"
        :options="againstOptions"
        @choose="(tMs) => workspace.lookInto(answer.tMs, null, tMs === NO_MOMENT ? null : tMs)"
      />
    </span>
    <v-btn
      v-if="answer.against"
      variant="plain"
      class="condensed"
      data-test="find-came"
      @click="findCame(answer.against)"
      >find what was born in between and lives</v-btn
    >
    <v-btn
      v-if="answer.against"
      variant="plain"
      class="condensed"
      data-test="find-came-idle"
      @click="findCame(answer.against, ' when=idle')"
      >… while the program waited</v-btn
    >
    <v-btn variant="plain" class="condensed" data-test="compare-moment" @click="compareSince"
      >what changed since, with its errors</v-btn
    >
    <h3><ChargeControl text="By" /></h3>
    <v-table v-if="answer.against" class="dense changes" data-test="changes">
      <caption class="quiet condensed">
        from
        {{
          formatClock(answer.against.fromMs, true)
        }}
        to
        {{
          formatClock(answer.against.toMs, true)
        }}
      </caption>
      <thead>
        <tr>
          <th scope="col">in both</th>
          <th scope="col">went</th>
          <th scope="col">came</th>
          <th scope="col">change</th>
        </tr>
      </thead>
      <tbody
        v-for="row in answer.against.rows.slice(0, MOST_ROWS)"
        :key="row.key"
        :class="{ unclear: !row.isClear }"
        :title="row.isClear ? '' : 'within the error of the estimate'"
      >
        <tr>
          <th colspan="4" scope="rowgroup" class="text who"><KeyName :words="keyText(row)" /></th>
        </tr>
        <tr>
          <td>{{ amount(row.bothBytes) }}</td>
          <td>{{ amount(row.wentBytes) }}</td>
          <td>{{ amount(row.cameBytes) }}</td>
          <td :title="exactBytes(row.afterBytes - row.beforeBytes)">
            {{ signed(row.afterBytes - row.beforeBytes) }} <span class="quiet">{{ plusMinus(row.changeSe) }}</span>
          </td>
        </tr>
      </tbody>
    </v-table>
    <v-table v-else class="dense" data-test="content">
      <tbody>
        <tr v-for="row in answer.rows.slice(0, MOST_ROWS)" :key="row.key">
          <td class="wide">
            <button
              type="button"
              class="row-name"
              @click="workspace.select({ kind: 'key', charge: workspace.charge, key: row.key })"
            >
              <KeyName :words="keyText(row)" />
            </button>
          </td>
          <td :title="`${exactly(row)}, ${countText(row.count)} objects, ${row.samples} seen`">
            {{ formatBytes(row.bytes) }}
          </td>
          <td class="share">
            <span class="bar" :style="{ width: `${share(row.bytes) * 22}px` }" />{{ formatPercent(share(row.bytes)) }}
          </td>
        </tr>
        <tr v-if="answer.rows.length === 0">
          <td class="text quiet">Nothing that was seen lived then.</td>
        </tr>
        <tr v-if="answer.keyCount > MOST_ROWS">
          <td colspan="3" class="text quiet">and {{ answer.keyCount - MOST_ROWS }} more</td>
        </tr>
      </tbody>
    </v-table>
    <TakeTable
      v-if="(answer.against?.rows ?? answer.rows).length > 0"
      :csv="csv"
      :name="answer.against ? 'moments-compared' : 'moment'"
    />
    <template v-if="answer.against && answer.against.bands.length > 0">
      <h3>By time of birth</h3>
      <v-table class="dense changes" data-test="band-changes">
        <thead>
          <tr>
            <th scope="col" class="text">born</th>
            <th scope="col">in both</th>
            <th scope="col">went</th>
            <th scope="col">came</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="part in answer.against.bands" :key="part.key" :class="{ unclear: !part.isClear }">
            <td class="text">{{ born(part.born) }}</td>
            <td>{{ amount(part.bothBytes) }}</td>
            <td>{{ amount(part.wentBytes) }}</td>
            <td>{{ amount(part.cameBytes) }}</td>
          </tr>
        </tbody>
      </v-table>
    </template>
    <template v-if="!answer.against && answer.bands.length > 0 && band === null">
      <h3>By time of birth</h3>
      <v-table class="dense" data-test="bands">
        <tbody>
          <tr v-for="part in answer.bands" :key="part.key">
            <td class="wide">
              <button type="button" class="row-name" @click="workspace.lookInto(answer.tMs, part.key)">
                {{ born(part.born) }}
              </button>
            </td>
            <td :title="exactly(part)">{{ formatBytes(part.bytes) }}</td>
            <td class="share">
              <span class="bar" :style="{ width: `${share(part.bytes) * 22}px` }" />{{
                formatPercent(share(part.bytes))
              }}
            </td>
          </tr>
        </tbody>
      </v-table>
    </template>
  </div>
</template>

<style scoped>
.title {
  font-size: 15px;
  padding-right: 44px;
}
h3 {
  margin: 14px 0 2px;
  font-weight: 500;
}
.keep {
  display: flex;
  gap: 10px;
  margin: 6px 0;
}
.keep .v-input {
  flex: 1;
}
.share {
  width: 64px;
}
table :deep(code) {
  font-size: 12px;
}
.bar {
  display: inline-block;
  height: 10px;
  margin-right: 5px;
  background: var(--kept);
  vertical-align: middle;
  min-width: 1px;
}
.changes caption {
  text-align: left;
}
.changes .who {
  border: 0;
  padding-bottom: 0;
  max-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  color: var(--ink);
}
.changes td {
  padding-top: 1px;
}
.changes td:first-child {
  text-align: right;
}
.unclear td,
.changes .unclear .who {
  color: var(--ink-2);
}
</style>
