<script setup lang="ts">
import { onMounted } from 'vue';
import { useTheme } from 'vuetify';
import GuideCard from './guide/GuideCard.vue';

const theme = useTheme();
onMounted(() => {
  const chosen =
    localStorage.getItem('theme') ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day');
  if (chosen === 'night' || chosen === 'day') theme.change(chosen);
});
</script>

<template>
  <v-app>
    <router-view />
    <GuideCard />
  </v-app>
</template>
