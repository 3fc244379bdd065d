<script setup lang="ts">
import { type CollectionDetail, formatBytes, formatClock, formatDuration, type PauseStep } from '@brisk-heron/core';
import { ref } from 'vue';
import { exactBytes } from '../components/figures.ts';
import { useWorkspace } from '../stores/workspace.ts';
import type { CollectionLines } from '../worker/collection-lines.ts';

/** Everything known of a pause and its collection, where to step from it, and the lines of the log that tell of it. */
defineProps<{ detail: CollectionDetail; lines: CollectionLines | null }>();

const STEPS: readonly { readonly step: PauseStep; readonly key: string; readonly text: string }[] = [
  { step: 'previous', key: 'p', text: '‹ before' },
  { step: 'next', key: 'n', text: 'after ›' },
  { step: 'nextLongest', key: 'l', text: 'next longest' },
  { step: 'previousOfKind', key: 'b', text: '‹ same kind' },
  { step: 'nextOfKind', key: 's', text: 'same kind ›' },
];
const workspace = useWorkspace();
const ended = ref('');
const size = (bytes: number | null): string => (bytes === null ? 'not told' : formatBytes(bytes));
const change = (before: number, after: number): string =>
  (Number.isFinite(before) ? formatBytes(before) : '–') + ' → ' + formatBytes(after);
const outside = (name: string): string =>
  workspace.overview?.outsideSpaces.includes(name) ? `${name} (outside the heap)` : name;

async function go(step: PauseStep, text: string): Promise<void> {
  ended.value = (await workspace.step(step)) ? '' : `nothing further ${text.replace(/[‹›]/g, '').trim()} in this span`;
}
</script>

<template>
  <div>
    <h2>{{ detail.label }}</h2>
    <p class="quiet place">
      {{ detail.scope }}{{ detail.heap ? ` · ${detail.heap}` : ''
      }}{{ detail.cause && !detail.label.includes(detail.cause) ? ` · ${detail.cause}` : ''
      }}{{ detail.gcId === null ? '' : ` · number ${detail.gcId}`
      }}{{ detail.line === null ? '' : ` · line ${detail.line}` }}
    </p>
    <p class="steps condensed">
      <v-btn
        v-for="{ step, key, text } in STEPS"
        :key="step"
        variant="plain"
        :title="`key ${key}`"
        :data-test="`step-${step}`"
        @click="go(step, text)"
      >
        {{ text }}
      </v-btn>
    </p>
    <p v-if="ended" class="quiet ended" role="status">{{ ended }}</p>
    <p v-if="detail.own" class="note">
      Forced by the recorder to see what survives. It is left out of the program's pauses; what it leaves is a floor
      point.
    </p>
    <p v-if="detail.explicit" class="note">Asked for by the program itself.</p>
    <p v-if="detail.failed" class="note">Survivors found no room to be copied to.</p>
    <p v-if="detail.degenerated" class="note">Begun beside the program, finished with the program stopped.</p>
    <v-table class="dense facts">
      <tbody>
        <tr>
          <td>began</td>
          <td>{{ formatClock(detail.startMs, true) }}</td>
        </tr>
        <tr v-if="detail.sinceLastMs !== null">
          <td>after the one before</td>
          <td>{{ formatDuration(detail.sinceLastMs) }}</td>
        </tr>
        <tr>
          <td>stopped the program</td>
          <td data-test="pause-length">{{ formatDuration(detail.durationMs) }}</td>
        </tr>
        <tr v-if="detail.reachMs !== null">
          <td>until all had stopped</td>
          <td>{{ formatDuration(detail.reachMs) }}</td>
        </tr>
        <tr v-if="detail.concurrentMs !== null">
          <td>beside the program</td>
          <td>{{ formatDuration(detail.concurrentMs) }}</td>
        </tr>
        <tr v-if="detail.cpu">
          <td title="printed in steps of 10 ms">processor: user, system, real</td>
          <td>{{ detail.cpu.userMs }}, {{ detail.cpu.sysMs }}, {{ detail.cpu.realMs }} ms</td>
        </tr>
        <tr>
          <td>used before</td>
          <td :title="exactBytes(detail.usedBeforeBytes ?? NaN)">{{ size(detail.usedBeforeBytes) }}</td>
        </tr>
        <tr>
          <td>used after</td>
          <td :title="exactBytes(detail.usedAfterBytes ?? NaN)">{{ size(detail.usedAfterBytes) }}</td>
        </tr>
        <tr>
          <td>committed after</td>
          <td>{{ size(detail.capacityBytes) }}</td>
        </tr>
        <tr>
          <td>promoted</td>
          <td>{{ size(detail.promotedBytes) }}</td>
        </tr>
      </tbody>
    </v-table>
    <template v-if="detail.spaces.length > 0">
      <h3>Spaces</h3>
      <v-table class="dense facts">
        <tbody>
          <tr v-for="space in detail.spaces" :key="space.name">
            <td>{{ outside(space.name) }}</td>
            <td>{{ change(space.beforeBytes, space.afterBytes) }}</td>
          </tr>
        </tbody>
      </v-table>
    </template>
    <template v-if="detail.ages.length > 0">
      <h3>Survivors by age</h3>
      <v-table class="dense facts">
        <tbody>
          <tr v-for="row in detail.ages" :key="row.age">
            <td>lived through {{ row.age }}</td>
            <td>{{ formatBytes(row.bytes) }}</td>
          </tr>
        </tbody>
      </v-table>
    </template>
    <template v-if="detail.others.length > 0">
      <h3>Other pauses of this collection</h3>
      <ul class="others">
        <li v-for="other in detail.others" :key="other.row">
          <v-btn variant="plain" @click="workspace.select({ kind: 'pause', row: other.row })">
            {{ other.label }}
          </v-btn>
          {{ formatDuration(other.durationMs) }}
        </li>
      </ul>
    </template>
    <template v-if="lines && lines.lines.length > 0">
      <h3>As it was logged</h3>
      <ol class="mono logged" tabindex="0" aria-label="Lines of the log" data-test="logged">
        <li v-for="(line, place) in lines.lines" :key="place">{{ line }}</li>
      </ol>
      <p v-if="lines.leftOut > 0" class="quiet">and {{ lines.leftOut }} lines more</p>
    </template>
  </div>
</template>

<style scoped>
.place {
  margin: 1px 0 6px;
}
h2 {
  padding-right: 44px;
  font-size: 15px;
}
h3 {
  margin: 14px 0 4px;
}
.steps {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 11px;
  margin: 0 0 8px;
  font-size: 12.5px;
}
.ended {
  margin: -4px 0 8px;
  font-size: 12px;
}
.note {
  border-left: 3px solid var(--rule);
  padding-left: 8px;
}
.others {
  margin: 0;
  padding-left: 14px;
}
.logged {
  list-style: none;
  margin: 0;
  font-size: 11px;
  line-height: 1.4;
  overflow: auto;
  max-height: 300px;
  border: 1px solid var(--rule);
  background: var(--paper);
  padding: 5px 7px;
}
.logged li {
  padding-left: 14px;
  text-indent: -14px;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
</style>
