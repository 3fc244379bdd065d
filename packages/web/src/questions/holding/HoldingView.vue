<script setup lang="ts">
import { formatBytes, formatDuration, formatPercent, type HeldGroup } from '@brisk-heron/core';
import { computed } from 'vue';
import DenseTable from '../../components/DenseTable.vue';
import type { DenseColumn } from '../../components/dense-column.ts';
import { exactBytes, findOfLabel, plusMinus, plusMinusCount } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import HeldAround from './HeldAround.vue';
import HeldChanges from './HeldChanges.vue';
import HeldReasons from './HeldReasons.vue';
import HeldWays from './HeldWays.vue';
import InventoryChoice from './InventoryChoice.vue';
import TakeInventory from './TakeInventory.vue';
import { heldByWords } from './held-by-words.ts';
import { useHolding } from './holding-state.ts';

/** What stays in the heap of an inventory, sorted by what would be freed, and why the chosen of it stays. */
const holding = useHolding();
const BAR = 60;
const workspace = useWorkspace();
const stoodStill = computed(() => {
  const { pauseMs } = answer.value?.inventories[answer.value.at] ?? { pauseMs: NaN };
  return Number.isNaN(pauseMs) ? '' : ` The program stood still for it for ${formatDuration(pauseMs)}.`;
});
/** The charge under which the other questions tell the same; null where there is none. */
const charge = computed(() =>
  holding.by === 'type' || holding.by === 'package' || holding.by === 'band' ? null : holding.by,
);
/** The same key in the question that tells its growth, with its bands on the ribbon. */
function showSite(): void {
  if (charge.value === null || holding.detail === null) return;
  workspace.chargeTo(charge.value);
  workspace.find = findOfLabel(charge.value, holding.detail.key);
  workspace.show('growth');
}
/** There is a recorder that could take one. */
const isAsked = computed(() => workspace.isLive && workspace.overview?.format === 'recording');
const answer = computed(() => ((holding.answer?.at ?? -1) >= 0 ? holding.answer : null));
const columns = computed<readonly DenseColumn<HeldGroup>[]>(() => [
  { key: 'key', title: heldByWords(holding.by), order: (row) => row.key, isText: true },
  {
    key: 'objects',
    title: 'objects',
    text: (row) => row.objects.toLocaleString('en'),
    hint: (row) => (row.sampled === null ? '' : plusMinusCount(row.sampled.objectsSe)),
    order: (row) => row.objects,
  },
  {
    key: 'own',
    title: 'own',
    unit: 'bytes',
    text: (row) => `${formatBytes(row.ownBytes)}${row.sampled === null ? '' : ` ${plusMinus(row.sampled.ownSe)}`}`,
    hint: (row) => exactBytes(row.ownBytes),
    order: (row) => row.ownBytes,
  },
  {
    key: 'held',
    title: 'held',
    term: 'held bytes',
    unit: 'bytes',
    text: (row) => `${row.heldIsExact ? '' : '≥ '}${formatBytes(row.heldBytes)}`,
    hint: (row) => {
      if (row.heldIsExact) return exactBytes(row.heldBytes);
      const error = row.sampled === null ? '' : ` ${plusMinus(row.sampled.heldSe)}`;
      return `what its objects hold one by one${error}: together they may hold more`;
    },
    order: (row) => row.heldBytes,
  },
  { key: 'share', title: 'of the heap', order: (row) => row.shareRatio },
]);
</script>

<template>
  <div class="view">
    <div class="view-head">
      <h2>Why does it stay?</h2>
      <v-text-field
        v-if="answer"
        class="find"
        clearable
        aria-label="Which objects"
        placeholder="Handler, own>1MiB, field=cache"
        data-test="held-find"
        :model-value="holding.find"
        @update:model-value="(find: string | null) => holding.set({ find: find ?? '' })"
      />
      <TakeInventory v-if="isAsked" />
    </div>
    <template v-if="answer">
      <p class="condensed quiet">
        {{ answer.objects.toLocaleString('en') }} objects, {{ formatBytes(answer.ownBytes) }};
        {{ answer.unreachable.objects.toLocaleString('en') }} more, {{ formatBytes(answer.unreachable.ownBytes) }}, can
        be reached from nowhere.{{ stoodStill }} <InventoryChoice :answer="answer" />
      </p>
      <HeldReasons v-if="holding.reasons" :reasons="holding.reasons" />
      <p v-if="holding.problem" class="urgent small" role="status">{{ holding.problem }}.</p>
      <p v-if="holding.answer?.missing" class="quiet" role="status">{{ holding.answer.missing }}.</p>
      <p v-if="answer.problem" class="urgent small" role="status">{{ answer.problem }}.</p>
      <section v-if="holding.detail" class="why" aria-label="Why it stays" data-test="held-why">
        <HeldWays :group="holding.detail" />
        <p v-if="holding.detail.sampled" class="small">
          <v-btn v-if="charge" variant="plain" data-test="who-allocates" @click="showSite"
            >Who allocates it, and when</v-btn
          >
        </p>
        <HeldAround v-if="holding.around" :around="holding.around" />
      </section>
      <p v-else-if="holding.chosen && holding.isNone" class="quiet" role="status">
        Of {{ holding.chosen }} there is no object in this inventory of which that is known.
      </p>
      <p v-else-if="holding.chosen" class="quiet" role="status">Looking up why {{ holding.chosen }} stays …</p>
      <p v-if="holding.before && !holding.changes && !holding.problem" class="quiet" role="status">
        Working out what changed …
      </p>
      <HeldChanges v-if="holding.changes" :changes="holding.changes" />
      <DenseTable
        v-else
        data-test="held"
        :columns="columns"
        :rows="answer.groups"
        :row-key="(row) => row.key"
        :chosen="holding.chosen === '' ? null : holding.chosen"
        fill
        caption="What stays, by what would be freed if it went"
        export-name="held"
        empty="No object is such."
        @choose="(row) => holding.choose(row.key)"
      >
        <template #cell-key="{ row }"
          ><code :class="{ quiet: !row.isOwn }">{{ row.key }}</code></template
        >
        <template #cell-share="{ row }">
          <span class="bar" :style="{ width: `${Math.max(1, row.shareRatio * BAR)}px` }" />{{
            formatPercent(row.shareRatio)
          }}
        </template>
      </DenseTable>
      <p v-if="!holding.changes && answer.groupCount > answer.groups.length" class="quiet small">
        and {{ (answer.groupCount - answer.groups.length).toLocaleString('en') }} more that hold less
      </p>
      <p v-for="note in answer.notes" :key="note" class="quiet small">{{ note }}</p>
    </template>
    <template v-else-if="holding.answer">
      <p class="quiet" data-test="no-inventory">
        No inventory was taken of this program, so what refers to what is not known. A JVM writes one with
        <code>jcmd PID GC.heap_dump FILE.hprof</code>, Node with <code>v8.writeHeapSnapshot()</code>: drop the file on
        the list of recordings, or ask it on the command line, <code>./heron ask FILE.hprof --measure holding</code>.
      </p>
    </template>
    <p v-else class="quiet" role="status">Working out who holds whom …</p>
  </div>
</template>

<style scoped>
.find {
  max-width: 320px;
}
.why {
  margin: 6px 0 10px;
  padding: 8px 12px;
  background: var(--paper-2);
}
.bar {
  display: inline-block;
  height: 10px;
  margin-right: 6px;
  background: var(--kept);
  vertical-align: middle;
}
</style>
