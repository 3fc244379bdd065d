<script setup lang="ts">
import { useWorkspace } from '../stores/workspace.ts';
import KeyEvidence from './KeyEvidence.vue';
import MomentEvidence from './MomentEvidence.vue';
import PauseEvidence from './PauseEvidence.vue';

const workspace = useWorkspace();
</script>

<template>
  <aside class="drawer" aria-label="Evidence" data-test="drawer" @keydown.esc="workspace.select(null)">
    <button type="button" class="close linklike quiet" @click="workspace.select(null)">close</button>
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
      {{
        workspace.find
          ? `“${workspace.find.trim()}” lets nothing of it through in this span.`
          : 'Nothing of it was seen in this span.'
      }}
      <button v-if="workspace.find" type="button" class="linklike" @click="workspace.find = ''">clear the find</button>
    </p>
    <p v-else class="quiet">Looking it up …</p>
  </aside>
</template>

<style scoped>
.drawer {
  position: relative;
  width: 334px;
  background: var(--paper-2);
  border-left: 1px solid var(--rule);
  overflow: auto;
  padding: 12px 16px 20px;
}
.close {
  position: absolute;
  right: 14px;
  top: 12px;
  font-size: 12px;
}
@media (max-width: 1100px) {
  .drawer {
    width: 280px;
  }
}
</style>
