<script setup lang="ts">
import { computed } from 'vue';
import { useTheme } from 'vuetify';

const theme = useTheme();
const isNight = computed(() => theme.global.name.value === 'night');

function change(): void {
  const next = isNight.value ? 'day' : 'night';
  theme.change(next);
  localStorage.setItem('theme', next);
}
</script>

<template>
  <v-btn variant="plain" class="switch quiet" @click="change">
    {{ isNight ? 'day colours' : 'night colours' }}
  </v-btn>
</template>

<style scoped>
.switch {
  white-space: nowrap;
  font-size: 12.5px;
}
</style>
