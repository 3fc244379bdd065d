<script setup lang="ts">
import { useWorkspace } from '../stores/workspace.ts';

const workspace = useWorkspace();
</script>

<template>
  <span class="quiet">charged to
    <button type="button" class="linklike" :title="workspace.charge === 'ownFrame' ? 'the nearest frame of your own code' : 'the frame that allocates'" data-test="charge" @click="workspace.chargeTo(workspace.charge === 'ownFrame' ? 'site' : 'ownFrame')">{{ workspace.charge === 'ownFrame' ? 'own frame' : 'site' }}</button>
  </span>
</template>
