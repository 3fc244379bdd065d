<script setup lang="ts">
import { formatBytes, formatDuration, restartsOf } from '@brisk-heron/core';
import { computed, ref } from 'vue';
import ProgressLine from '../components/ProgressLine.vue';
import { shortRuntime } from '../components/figures.ts';
import type { RecordingRow } from '../db/heron-db.ts';
import { useLibrary } from '../stores/library.ts';
import RecordingStrip from '../components/RecordingStrip.vue';
import { when } from './when.ts';

/** The recordings in this browser, by program, with a search; several can be exported or deleted at once. */
const props = defineProps<{ recordings: readonly RecordingRow[] }>();
const emit = defineEmits<{ rename: [row: RecordingRow]; remove: [rows: readonly RecordingRow[]] }>();
const library = useLibrary();
const ROW = 46;
/** A list that is longer can be searched. */
const FEW = 5;

const search = ref('');
const chosen = ref<readonly string[]>([]);
const byProgram = ref(true);
/** A list that is searched stays so, however short it becomes. */
const isLong = computed(() => props.recordings.length > FEW || search.value !== '');
const rows = computed(() =>
  props.recordings.map((row) => ({
    ...row,
    called: row.name || row.program,
    group: row.program || row.name,
    words: `${row.name} ${row.program} ${row.runtime} ${row.sentence}`.toLowerCase(),
  })),
);
const shown = computed(() => {
  const parts = search.value.toLowerCase().split(/\s+/);
  return rows.value.filter(({ words }) => parts.every((part) => words.includes(part)));
});
const programs = computed(() => new Set(shown.value.map(({ group }) => group)).size);
/** Programs are told apart where any has several recordings. */
const isGrouped = computed(() => byProgram.value && programs.value < shown.value.length && programs.value > 1);
const groupBy = computed(() => (isGrouped.value ? [{ key: 'group', order: 'asc' as const }] : []));
const selected = computed(() => props.recordings.filter(({ id }) => chosen.value.includes(id)));

/** The one program of several recordings; null where there are others, which stand in groups. */
const only = computed(() => (programs.value === 1 && shown.value.length > 1 ? (shown.value[0]?.group ?? null) : null));

/** Two that are chosen can be compared: what began first came before. */
const pair = computed(() => {
  const [before, after, ...more] = [...selected.value].sort((a, b) => a.startedEpochMs - b.startedEpochMs);
  if (before === undefined || after === undefined || more.length > 0) return null;
  return { name: 'recording', params: { id: after.id, view: 'changes' }, query: { other: before.id } };
});

const HEADERS = [
  { key: 'called', title: 'recording', class: 'who' },
  { key: 'sentence', title: 'verdict', class: 'verdict' },
  { key: 'strip', title: 'memory', sortable: false, class: 'strip' },
  { key: 'startedEpochMs', title: 'when', align: 'end' },
  { key: 'durationMs', title: 'length', align: 'end' },
  { key: 'bytes', title: 'size', align: 'end' },
  { key: 'actions', title: '', sortable: false },
] as const;
// A group stands in a line of its own: its column has no width.
const GROUP = { key: 'data-table-group', title: '', width: 0, sortable: false } as const;
const headers = computed(() => [
  ...(isGrouped.value ? [GROUP] : []),
  ...HEADERS.map((head) => ({ ...head, headerProps: { class: `col-${head.key}` } })),
]);

/** What is said of programs that climb and are started again and again. */
const restarted = computed(() => {
  const said = new Map<string, string>();
  for (const program of new Set(rows.value.map(({ group }) => group))) {
    const runs = rows.value.filter(({ group }) => group === program).flatMap((row) => row.runs ?? []);
    said.set(program, restartsOf(runs)?.sentence ?? '');
  }
  return said;
});

async function exportChosen(): Promise<void> {
  for (const { id } of selected.value) await library.exportRecording(id);
}

function removeChosen(): void {
  emit('remove', selected.value);
  chosen.value = [];
}
</script>

<template>
  <div>
    <div v-if="isLong || selected.length > 0 || only !== null" class="over condensed">
      <v-text-field
        v-if="isLong"
        v-model="search"
        class="search"
        placeholder="Search by name, program, runtime or verdict"
        aria-label="Search the recordings"
        data-test="search-recordings"
      />
      <v-checkbox-btn v-if="isLong" v-model="byProgram" inline label="by program" />
      <span v-if="only !== null">
        <router-link :to="{ name: 'history', params: { program: only } }" data-test="over-time"
          >{{ only }} over time</router-link
        >
        {{ ' ' }}<span class="urgent">{{ restarted.get(only) }}</span>
      </span>
      <span v-if="selected.length > 0" class="several" data-test="several">
        {{ selected.length }} chosen:
        <template v-if="pair"
          ><router-link :to="pair" data-test="compare-chosen">compare</router-link>{{ ' ' }}</template
        >
        <v-btn variant="plain" @click="exportChosen">export</v-btn>{{ ' ' }}
        <v-btn variant="plain" @click="removeChosen">delete</v-btn>
      </span>
    </div>
    <v-data-table-virtual
      :model-value="chosen"
      class="dense recordings"
      :headers="headers"
      :items="shown"
      :group-by="groupBy"
      :item-height="ROW"
      item-value="id"
      :show-select="recordings.length > 1"
      open-all
      fixed-header
      :no-data-text="`No recording matches “${search}”.`"
      @update:model-value="(ids: readonly string[]) => (chosen = ids)"
    >
      <template #[`header.actions`]><span class="visually-hidden">actions</span></template>
      <template #[`header.data-table-group`]><span class="visually-hidden">program</span></template>
      <template v-if="library.importing" #[`body.prepend`]>
        <tr data-test="importing">
          <td colspan="9" class="text importing">
            <ProgressLine :progress="library.importing" />
            <v-btn @click="library.cancelImport()">Cancel</v-btn>
          </td>
        </tr>
      </template>
      <template #group-header="{ item: group, isGroupOpen, toggleGroup, columns }">
        <tr class="group">
          <td :colspan="columns.length" class="text">
            <v-btn variant="plain" :aria-expanded="isGroupOpen(group)" @click="toggleGroup(group)"
              >{{ isGroupOpen(group) ? '▾' : '▸' }} {{ group.value }}</v-btn
            >
            {{ ' ' }}<span class="quiet">{{ group.items.length }}</span>
            <span v-if="group.items.length > 1" class="condensed over-time">
              <router-link :to="{ name: 'history', params: { program: group.value } }">over time</router-link>
              {{ ' ' }}<span class="urgent">{{ restarted.get(group.value) }}</span>
            </span>
          </td>
        </tr>
      </template>
      <template #item="{ item: row, internalItem, isSelected, toggleSelect, itemRef }">
        <tr :ref="itemRef" data-test="recording-row">
          <td v-if="recordings.length > 1" class="check">
            <v-checkbox-btn
              :aria-label="`Choose ${row.called}`"
              :model-value="isSelected(internalItem)"
              @update:model-value="toggleSelect(internalItem)"
            />
          </td>
          <td v-if="isGrouped" class="indent" />
          <td class="text who">
            <router-link :to="{ name: 'recording', params: { id: row.id, view: 'growth' } }">{{
              row.called
            }}</router-link><br /><span class="quiet" :title="row.runtime">{{ shortRuntime(row.runtime) }}</span>
          </td>
          <td class="text verdict" :title="row.sentence">
            {{ row.sentence || 'not read to its end'
            }}<template v-if="row.missing"
              ><br /><span class="urgent" data-test="row-missing" :title="row.missing"
                >Of a part only. {{ row.missing }}</span
              ></template
            >
          </td>
          <td class="text col-strip"><RecordingStrip :values="row.strip" :width="100" :height="24" /></td>
          <td>{{ when(row.startedEpochMs) }}</td>
          <td>{{ formatDuration(row.durationMs) }}</td>
          <td class="col-bytes">{{ formatBytes(row.bytes) }}</td>
          <td class="actions">
            <v-btn variant="plain" @click="emit('rename', row)">rename</v-btn>
            <v-btn variant="plain" @click="library.exportRecording(row.id)">export</v-btn>
            <v-btn variant="plain" @click="emit('remove', [row])">delete</v-btn>
          </td>
        </tr>
      </template>
    </v-data-table-virtual>
  </div>
</template>

<style scoped>
.over {
  display: flex;
  align-items: center;
  gap: 18px;
  margin-bottom: 4px;
}
.search {
  max-width: 340px;
}
.several {
  margin-left: auto;
}
.importing {
  max-width: 520px;
  white-space: normal;
}
.recordings :deep(.v-table__wrapper) {
  max-height: 660px;
}
.indent,
.recordings :deep(.v-data-table-column--empty) {
  width: 0;
  padding: 0 !important;
}
.who {
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
  line-height: 1.3;
}
.who .quiet {
  font-size: 12px;
}
.v-table.dense.recordings :deep(td.verdict) {
  min-width: 180px;
  width: 60%;
  white-space: normal;
  line-height: 1.25;
  font-size: 13px;
}
.v-table.dense.recordings :deep(td),
.v-table.dense.recordings :deep(th) {
  padding: 3px 6px;
}
.v-table.dense.recordings :deep(th:is(.col-called, .col-sentence, .col-strip)) {
  text-align: left;
}
.over-time {
  margin-left: 16px;
  font-weight: 400;
}
.check {
  width: 28px;
}
.group td {
  font-weight: 500;
}
.actions .v-btn {
  margin-left: 8px;
  color: var(--ink-2) !important;
  font-size: 12.5px !important;
}
@media (max-width: 1400px) {
  .recordings :deep(.col-bytes) {
    display: none;
  }
}
@media (max-width: 1100px) {
  .recordings :deep(.col-strip) {
    display: none;
  }
  .who {
    max-width: 150px;
  }
}
</style>
