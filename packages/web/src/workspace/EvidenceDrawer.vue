<script setup lang="ts">
import { computed } from 'vue';
import { useDisplay } from 'vuetify';
import { useWorkspace } from '../stores/workspace.ts';
import KeyEvidence from './KeyEvidence.vue';
import MomentEvidence from './MomentEvidence.vue';
import PauseEvidence from './PauseEvidence.vue';
import { isSmall } from './room.ts';

/** Beside the view: all that is known of what is selected. Over it, where there is little room. */
const workspace = useWorkspace();
const display = useDisplay();
const WIDE = 1100;
const small = computed(() => isSmall(display.width.value));
const width = computed(() => (display.width.value > WIDE ? 334 : 280));
const goneText = computed(() => {
  const find = workspace.find?.trim() ?? '';
  return find === '' ? 'Nothing of it was seen in this span.' : `“${find}” lets nothing of it through in this span.`;
});
</script>

<template>
  <v-navigation-drawer
    location="right"
    :model-value="workspace.selection !== null"
    :permanent="!small"
    :temporary="small"
    :width="width"
    tag="aside"
    class="drawer"
    disable-resize-watcher
    aria-label="Evidence"
    data-test="drawer"
    @update:model-value="(open: boolean) => open || workspace.select(null)"
    @keydown.esc="workspace.select(null)"
  >
    <div class="evidence">
      <v-btn variant="plain" class="close quiet" @click="workspace.select(null)">close</v-btn>
      <KeyEvidence v-if="workspace.selection?.kind === 'key' && workspace.detail" :detail="workspace.detail" />
      <MomentEvidence
        v-else-if="workspace.selection?.kind === 'moment' && workspace.content"
        :answer="workspace.content"
      />
      <PauseEvidence
        v-else-if="workspace.selection?.kind === 'pause' && workspace.collection"
        :detail="workspace.collection"
        :lines="workspace.lines"
      />
      <p v-else-if="workspace.selection?.kind === 'key' && workspace.isGone" class="quiet" data-test="gone">
        {{ goneText }}
        <v-btn v-if="workspace.find" variant="plain" @click="workspace.find = ''">clear the find</v-btn>
      </p>
      <p v-else class="quiet">Looking it up …</p>
    </div>
  </v-navigation-drawer>
</template>

<style scoped>
.drawer {
  background: var(--paper-2) !important;
}
.evidence {
  position: relative;
  padding: 12px 16px 20px;
  overflow-wrap: anywhere;
}
.evidence :deep(.v-table.dense th) {
  background: var(--paper-2);
}
.close {
  position: absolute;
  right: 14px;
  top: 12px;
  font-size: 12px;
}
</style>
