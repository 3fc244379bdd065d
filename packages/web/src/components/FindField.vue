<script setup lang="ts">
import { useWorkspace } from '../stores/workspace.ts';

const workspace = useWorkspace();
</script>

<template>
  <v-text-field v-model="workspace.find" class="find" placeholder="Find a function, file or type …" aria-label="Find a function, file or type" clearable data-test="find" />
</template>

<style scoped>
.find { flex: 0 1 250px; margin-left: auto; }
.find :deep(input) { font-size: 13px; min-height: 26px; padding-top: 0; }
.find :deep(.v-field__clearable) { padding-top: 0; }
</style>
