<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import InlineSelect from '../components/InlineSelect.vue';
import { settingBytes } from '../components/figures.ts';
import { type RecorderCommand, useWorkspace } from '../stores/workspace.ts';

/**
 * What may be asked of the recorded program: a mark, a forced collection, watching births again; and moments kept
 * meanwhile.
 */
const workspace = useWorkspace();
const label = ref('');
const EVERY: readonly (readonly [number, string])[] = [
  [0, 'never'],
  [10, '10 s'],
  [30, '30 s'],
  [60, '1 min'],
  [300, '5 min'],
];
const told = ref('');

async function say(command: RecorderCommand, done: string): Promise<void> {
  told.value = (await workspace.command(command)) || done;
  setTimeout(() => {
    told.value = '';
  }, 4000);
}

/** A log that is followed has nobody who could be asked. */
const isAsked = computed(() => workspace.overview?.format === 'recording');
const births = computed(() => workspace.overview?.births ?? null);
const interval = computed(() => workspace.overview?.samplingIntervalBytes ?? 0);
/** 16 KiB to 16 MiB, and whatever is in force. */
const intervals = computed(() =>
  [...new Set([...Array.from({ length: 11 }, (_, power) => 16384 * 2 ** power), interval.value])]
    .filter((bytes) => bytes > 0)
    .sort((a, b) => a - b),
);

function turnBirths(): void {
  const on = births.value === 'off';
  void say({ do: 'births', on }, on ? 'births are watched again' : 'births are no longer watched');
}

function startOver(): void {
  void say({ do: 'startOver' }, 'what lived is let go; figures are of what happens from now on');
  workspace.watchSince(workspace.durationMs);
}

function chooseInterval(bytes: number): void {
  void say({ do: 'interval', bytes }, `samples every ${settingBytes(bytes)} are on their way`);
}

function keepEvery(seconds: number): void {
  workspace.momentEveryMs = seconds > 0 ? seconds * 1000 : null;
}

/** `m` marks from anywhere but a field. */
function key(event: KeyboardEvent): void {
  const inField =
    event.target instanceof HTMLElement && event.target.closest('input, select, textarea, [contenteditable]') !== null;
  if (event.key !== 'm' || event.ctrlKey || event.metaKey || event.altKey || inField) return;
  event.preventDefault();
  mark();
}
onMounted(() => document.addEventListener('keydown', key));
onBeforeUnmount(() => document.removeEventListener('keydown', key));

function mark(): void {
  if (!isAsked.value) return;
  const text = label.value.trim() || 'mark';
  void say({ do: 'mark', label: text }, `“${text}” is on its way`);
}
</script>

<template>
  <form class="mark" @submit.prevent="mark">
    <template v-if="isAsked">
      <v-text-field v-model="label" placeholder="label" aria-label="Label of the mark" maxlength="200" />
      <v-btn type="submit" data-test="mark" title="Key m">Mark now</v-btn>
    </template>
    <div v-if="isAsked" class="asks">
      <v-btn
        variant="plain"
        class="quiet condensed"
        title="A full collection now: the next floor point"
        @click="say({ do: 'collect' }, 'a collection is on its way')"
      >
        collect now
      </v-btn>
      <template v-if="births !== null && births !== 'phases'">
        <v-btn
          variant="plain"
          class="quiet condensed"
          title="Objects known so far stay followed either way"
          data-test="births"
          @click="turnBirths"
        >
          {{ births === 'off' ? 'watch births' : 'stop births' }}
        </v-btn>
        <v-btn
          variant="plain"
          class="quiet condensed"
          title="The recorder lets go of every object that it follows and begins anew; what was recorded stays"
          data-test="start-over"
          @click="startOver"
        >
          start over
        </v-btn>
      </template>
      <span v-if="workspace.overview?.takesInterval && births !== 'phases'" class="quiet condensed"
        >every{{ ' ' }}
        <InlineSelect
          :value="interval"
          :options="intervals.map((bytes) => [bytes, settingBytes(bytes)] as const)"
          label="Mean distance of samples"
          title="Mean distance of samples in bytes allocated; closer costs more"
          @choose="chooseInterval"
      /></span>
    </div>
    <div class="asks quiet condensed">
      <v-btn
        variant="plain"
        title="Keeps what lives now under its time, to be looked at and compared later"
        data-test="keep-moment"
        @click="workspace.keepMoment(workspace.durationMs)"
      >
        keep this moment
      </v-btn>
      <span
        >every{{ ' ' }}
        <InlineSelect
          :value="(workspace.momentEveryMs ?? 0) / 1000"
          :options="EVERY"
          label="Keep a moment every"
          @choose="keepEvery"
      /></span>
    </div>
    <span class="told quiet condensed" role="status">{{ told }}</span>
  </form>
</template>

<style scoped>
.mark {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
  padding: 8px 14px 10px 26px;
  border-top: 1px solid var(--rule);
}
.mark > :first-child {
  flex: 1 1 80px;
}
.mark :deep(input) {
  font-size: 13px;
  min-height: 24px;
  padding: 0;
}
.asks {
  width: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  white-space: nowrap;
}
.told {
  width: 100%;
  min-height: 16px;
  font-size: 12px;
}
</style>
