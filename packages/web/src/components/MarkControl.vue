<script setup lang="ts">
import { ref } from 'vue';
import { useWorkspace, type RecorderCommand } from '../stores/workspace.ts';

/** What may be asked of the recorded program: a mark, a forced collection, watching births again. */
const workspace = useWorkspace();
const label = ref('');
const told = ref('');

async function say(command: RecorderCommand, done: string): Promise<void> {
  told.value = (await workspace.command(command)) || done;
  setTimeout(() => { told.value = ''; }, 4000);
}

function mark(): void {
  const text = label.value.trim() || 'mark';
  void say({ do: 'mark', label: text }, `“${text}” is on its way`);
}
</script>

<template>
  <form class="mark" @submit.prevent="mark">
    <v-text-field v-model="label" placeholder="label" aria-label="Label of the mark" maxlength="200" />
    <v-btn type="submit" data-test="mark">Mark now</v-btn>
    <div class="asks">
    <button type="button" class="linklike quiet condensed" title="A full collection now: the next floor point" @click="say({ do: 'collect' }, 'a collection is on its way')">collect now</button>
    <button type="button" class="linklike quiet condensed" title="See every birth for five seconds, when the program has changed what it does; survivors are then followed anew" @click="say({ do: 'births' }, 'births are being watched')">watch births</button>
    </div>
    <span class="told quiet condensed" role="status">{{ told }}</span>
  </form>
</template>

<style scoped>
.mark { display: flex; flex-wrap: wrap; gap: 8px; align-items: end; padding: 8px 14px 10px 26px; border-top: 1px solid var(--rule); }
.mark > :first-child { flex: 1 1 80px; }
.mark :deep(input) { font-size: 13px; min-height: 24px; padding: 0; }
.asks { width: 100%; display: flex; gap: 14px; }
.told { width: 100%; min-height: 16px; font-size: 12px; }
</style>
