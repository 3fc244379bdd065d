<script setup lang="ts">
import { formatBytes, formatDuration, inventoryCost } from '@brisk-heron/core';
import { computed, onScopeDispose, ref, watch } from 'vue';
import { useWorkspace } from '../../stores/workspace.ts';

/** Takes an inventory of the recorded program, once it was said what that costs it. */
const workspace = useWorkspace();
const isOpen = ref(false);
const insist = ref(false);
const workers = ref(false);
const ids = ref(false);
/** What was asked, and how many inventories there were then; null while nothing is awaited. */
const awaited = ref<number | null>(null);
const problem = ref('');
/** It has not come for much longer than was foreseen. */
const isLate = ref(false);
/** What reading and sending may take beside the stop, of which it may be so many times as much. */
const PATIENCE_MS = 60_000;
const STOPS = 4;
let lateTimer: ReturnType<typeof setTimeout> | undefined;
onScopeDispose(() => clearTimeout(lateTimer));

const count = computed(() => workspace.overview?.inventory?.count ?? 0);
const isV8 = computed(() => workspace.overview?.runtime.startsWith('Node') ?? false);
const cost = computed(() => {
  const used = workspace.overview?.usedNowBytes ?? null;
  return used === null ? null : inventoryCost(isV8.value ? 'v8' : 'jvm', used);
});
/** The recorder's last word on why it took none. */
const refusal = computed(
  () => workspace.overview?.notes.filter(({ code }) => code === 'inventory-not-taken').at(-1) ?? null,
);
const refusedAtMs = ref(-Infinity);

async function take(): Promise<void> {
  refusedAtMs.value = refusal.value?.tMs ?? -Infinity;
  problem.value = await workspace.command({
    do: 'inventory',
    insist: insist.value,
    workers: workers.value,
    ids: ids.value,
  });
  awaited.value = problem.value === '' ? count.value : null;
  isOpen.value = false;
  isLate.value = false;
  clearTimeout(lateTimer);
  lateTimer = setTimeout(() => (isLate.value = true), PATIENCE_MS + STOPS * (cost.value?.pauseMs ?? 0));
}

watch([count, refusal, () => workspace.isLive], ([now], [before]) => {
  if (now > before) problem.value = '';
  if (awaited.value === null) return;
  if (count.value > awaited.value) awaited.value = null;
  else if (!workspace.isLive) {
    problem.value = 'The recording ended before an inventory came.';
    awaited.value = null;
  } else if (refusal.value !== null && refusal.value.tMs > refusedAtMs.value) {
    problem.value = refusal.value.message;
    awaited.value = null;
  }
});
</script>

<template>
  <div class="take">
    <v-btn :disabled="awaited !== null" data-test="take-inventory" @click="isOpen = !isOpen">Take an inventory</v-btn>
    <span v-if="awaited !== null" class="quiet" role="status"
      >It is being taken, read and sent: the program stands still for the first of these.<template v-if="isLate">
        It takes longer than foreseen. The file that the program writes is read by the command that records it: where a
        container keeps its files to itself, take it in there with <code>heron inventory PID --out FILE</code> and drop
        the file on the first page.</template
      ></span
    >
    <span v-else-if="problem" class="urgent small" role="status">{{ problem }}</span>
    <div v-if="isOpen" class="told" data-test="inventory-cost">
      <p v-if="cost">
        The program will stand still for about {{ formatDuration(cost.pauseMs) }} while it writes
        {{ formatBytes(cost.fileBytes / (isV8 ? 3 : 2)) }} down<template v-if="cost.memoryBytes > 0"
          >, and takes up to {{ formatBytes(cost.memoryBytes) }} more memory meanwhile</template
        >. It needs up to {{ formatBytes(cost.fileBytes) }} on the disk that the recording goes to.
      </p>
      <p v-else>How much the heap holds is not known, so neither is how long the program will stand still.</p>
      <p class="quiet">
        What its objects hold of text and numbers is not sent: types, fields, sizes and who refers to whom.
      </p>
      <div class="choices">
        <v-checkbox v-if="isV8" v-model="workers" label="of its workers too" data-test="inventory-workers" />
        <v-checkbox
          v-if="isV8"
          v-model="ids"
          label="to be compared with the next one, object by object; slows what survives until then"
        />
        <v-checkbox v-model="insist" label="even where memory or disk may be short" />
      </div>
      <v-btn color="primary" data-test="take-it" @click="take">Take it now</v-btn>{{ ' ' }}
      <v-btn variant="plain" @click="isOpen = false">Not now</v-btn>
    </div>
  </div>
</template>

<style scoped>
.take {
  margin: 4px 0;
}
.told {
  margin: 6px 0;
  padding: 8px 12px;
  max-width: 720px;
  background: var(--paper-2);
}
.told p {
  margin: 0 0 4px;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
}
</style>
