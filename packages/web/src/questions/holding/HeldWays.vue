<script setup lang="ts">
import { formatBytes, formatPercent, type HeldGroup } from '@brisk-heron/core';
import { ref } from 'vue';

/** Why the objects of one key stay: a sentence, and the ways from the objects to the roots, the heaviest open. */
defineProps<{ group: HeldGroup }>();
const open = ref<ReadonlySet<number>>(new Set([0]));

function turn(at: number): void {
  const next = new Set(open.value);
  if (!next.delete(at)) next.add(at);
  open.value = next;
}
/** From the objects to the root. */
const upward = (steps: readonly string[]): string[] => [...steps].reverse();
</script>

<template>
  <div>
    <p class="said" data-test="held-sentence">{{ group.sentence }}</p>
    <ol v-if="group.ways.length > 0" class="ways">
      <li v-for="(way, at) in group.ways" :key="way.steps.join(' ')">
        <button type="button" class="row-name" :aria-expanded="open.has(at)" @click="turn(at)">
          {{ open.has(at) ? '▾' : '▸' }} {{ formatPercent(way.shareRatio) }}: {{ way.objects.toLocaleString('en') }}
          {{ way.objects === 1 ? 'object' : 'objects' }}, {{ formatBytes(way.ownBytes) }}
          <code v-if="!open.has(at)" class="quiet">{{ upward(way.steps)[0] }}</code>
        </button>
        <ol v-if="open.has(at)" class="steps">
          <li v-for="(step, place) in upward(way.steps)" :key="place" :style="{ paddingLeft: `${place * 12}px` }">
            <span class="quiet">{{ place === 0 ? 'referred to by' : '↖' }}</span>{{ ' ' }}<code>{{ step }}</code>
          </li>
        </ol>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.said {
  font-size: 15px;
  line-height: 1.4;
  margin: 0 0 4px;
  overflow-wrap: anywhere;
}
.ways,
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
}
.ways {
  max-height: 240px;
  overflow: auto;
}
.steps {
  margin: 2px 0 6px 16px;
}
</style>
