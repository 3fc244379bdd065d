<script setup lang="ts">
import { formatBytes, formatDuration, formatPercent, isFrameCharge, type KeyDetail } from '@brisk-heron/core';
import { computed } from 'vue';
import { sparkPath } from '../charts/spark.ts';
import {
  CHARGE_WORDS,
  countText,
  exactBytes,
  findOnly,
  plusMinus,
  plusMinusCount,
  slopeText,
} from '../components/figures.ts';
import { useChanges } from '../questions/changes/changes-state.ts';
import { useHolding } from '../questions/holding/holding-state.ts';
import { useSites } from '../questions/sites/sites-state.ts';
import { useWorkspace } from '../stores/workspace.ts';
import SourceLines from './SourceLines.vue';

const props = defineProps<{ detail: KeyDetail }>();
const workspace = useWorkspace();
const who = useSites();
const changes = useChanges();
const holding = useHolding();
const WIDTH = 300;

const filePath = computed(() => props.detail.frame?.file.replace(/^file:\/\//, '') ?? '');
const only = computed(() =>
  findOnly(
    props.detail.charge,
    props.detail.row.name,
    props.detail.frame?.file.split('/').pop() ?? '',
    props.detail.frame?.line ?? 0,
  ),
);
// All paths of the key, from where it allocates up.
function showPaths(): void {
  workspace.find = only.value;
  who.set({ mode: 'paths', direction: 'allocation' });
  workspace.show('sites');
}

// What changed of this key alone, beside the other side that was or will be chosen.
function showChanges(): void {
  workspace.find = only.value;
  changes.set({ mode: 'keys' });
  workspace.show('changes');
}

/** By what its objects are told in an inventory; null where none is joined with this recording. */
const staysBy = computed(() => {
  const { charge } = props.detail;
  if (charge === 'type' && workspace.overview?.inventory) return charge;
  const isBirth = charge === 'site' || charge === 'ownFrame' || charge === 'thread';
  return isBirth && workspace.overview?.inventory?.isJoined === true ? charge : null;
});
function showHolding(): void {
  const { charge, row } = props.detail;
  if (staysBy.value === null) return;
  holding.open(isFrameCharge(charge) && row.place !== '' ? `${row.name} ${row.place}` : row.name, {
    by: staysBy.value,
  });
}

const lineText = computed(() =>
  props.detail.lineMeans === 'function'
    ? 'A frame is named with the line where its function begins.'
    : 'A frame is named with the line that was running.',
);
// A blank before what may be nothing.
const spaced = (text: string): string => (text === '' ? '' : ` ${text}`);
const grows = computed(() => props.detail.row.growthLow > 0);
</script>

<template>
  <div>
    <h2 class="mono name" data-test="site-name">{{ detail.row.name }}</h2>
    <p class="quiet place" :title="filePath">
      {{ isFrameCharge(detail.charge) ? detail.row.place || 'place unknown' : CHARGE_WORDS[detail.charge]
      }}{{ detail.row.type && detail.charge !== 'type' ? ` · ${detail.row.type}` : '' }}
    </p>

    <h3>{{ isFrameCharge(detail.charge) ? 'Path from the entry' : 'Heaviest path from the entry' }}</h3>
    <ol class="path">
      <li v-for="(step, place) in detail.path" :key="place" :style="{ paddingLeft: `${Math.min(place, 10) * 9}px` }">
        <span v-if="step.kind === 'folded'" class="quiet through"
          >through {{ step.count }} frame{{ step.count === 1 ? '' : 's' }} of {{ step.through }}</span
        >
        <span v-else :class="{ site: step.isSite }"
          ><code>{{ step.frame.functionName }}</code
          >{{ ' ' }}
          <span class="quiet condensed">{{ step.frame.file.split('/').pop() }}:{{ step.frame.line }}</span></span
        >
      </li>
    </ol>

    <h3>Source</h3>
    <SourceLines :frame="detail.frame" :recorded="detail.source" />

    <h3>Kept over the span</h3>
    <svg
      class="series"
      height="46"
      :viewBox="`0 0 ${WIDTH} 46`"
      preserveAspectRatio="none"
      role="img"
      :aria-label="`Settled live bytes: now ${formatBytes(detail.row.keptBytes)}`"
    >
      <path :d="sparkPath(detail.row.liveBytes, WIDTH, 46)" fill="none" stroke="var(--kept)" stroke-width="1.8" />
    </svg>
    <v-table class="dense facts">
      <tbody>
        <tr>
          <td>adds to the floor</td>
          <td :class="{ urgent: grows }" :title="exactBytes(detail.row.growthBytesPerSec * 60)">
            {{ slopeText(detail.row.growthBytesPerSec) }}
          </td>
        </tr>
        <tr>
          <td>share of growth</td>
          <td>{{ formatPercent(detail.row.growthShareRatio) }}</td>
        </tr>
        <tr>
          <td>kept now</td>
          <td :title="exactBytes(detail.row.keptBytes)">
            {{ formatBytes(detail.row.keptBytes) }} <span class="quiet">{{ plusMinus(detail.row.keptBytesSe) }}</span>
          </td>
        </tr>
        <tr>
          <td>allocated in the span</td>
          <td :title="exactBytes(detail.row.allocBytes)">
            {{ formatBytes(detail.row.allocBytes) }} <span class="quiet">{{ plusMinus(detail.row.allocBytesSe) }}</span>
          </td>
        </tr>
        <tr v-if="detail.row.inferredBytes > 0">
          <td>of it inferred</td>
          <td>{{ formatBytes(detail.row.inferredBytes) }}</td>
        </tr>
        <tr v-if="detail.row.allocCount > 0">
          <td>objects</td>
          <td>
            {{ countText(detail.row.allocCount)
            }}<span class="quiet">{{ spaced(plusMinusCount(detail.row.allocCountSe)) }}</span
            >, {{ formatBytes(detail.row.allocBytes / detail.row.allocCount) }} each
          </td>
        </tr>
        <tr v-if="detail.row.keptBytes > 0 && Number.isNaN(detail.row.keptCount)">
          <td>mean age of what is kept</td>
          <td>{{ formatDuration(detail.row.keptAgeMs) }}</td>
        </tr>
        <tr v-else-if="detail.row.keptBytes > 0">
          <td>objects kept</td>
          <td>
            {{ countText(detail.row.keptCount)
            }}<span class="quiet">{{ spaced(plusMinusCount(detail.row.keptCountSe)) }}</span
            >, {{ formatDuration(detail.row.keptAgeMs) }} old on average
          </td>
        </tr>
        <tr>
          <td>samples seen</td>
          <td>{{ countText(detail.row.samples) }}</td>
        </tr>
      </tbody>
    </v-table>
    <p class="quiet">
      Kept means alive and older than {{ formatDuration(detail.settleMs) }}, the settle time.
      {{ lineText }}
    </p>
    <p class="actions">
      <v-btn @click="workspace.find = only">Only this</v-btn>{{ ' ' }}
      <v-btn v-if="detail.paths > 1" data-test="its-paths" @click="showPaths"
        >All {{ detail.paths.toLocaleString('en') }} paths</v-btn
      >{{ ' ' }}
      <v-btn data-test="compare-key" title="beside another recording, or another part of this one" @click="showChanges"
        >Compare it</v-btn
      >{{ ' ' }}
      <v-btn v-if="staysBy" data-test="why-it-stays" title="by the last inventory" @click="showHolding"
        >Why it stays</v-btn
      >
    </p>
  </div>
</template>

<style scoped>
.name {
  padding-right: 44px;
  font-size: 15px;
  font-weight: 500;
  overflow-wrap: anywhere;
}
.place {
  margin: 1px 0 0;
}
h3 {
  margin: 14px 0 4px;
  border-bottom: 1px solid var(--rule);
  font-weight: 500;
}
.path {
  list-style: none;
  margin: 0;
  padding: 0;
}
.path li {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.through {
  font-style: italic;
}
.site code {
  font-weight: 500;
  border-bottom: 1.5px solid var(--attention);
}
.series {
  width: 100%;
}
.actions {
  display: flex;
  gap: 8px;
}
</style>
