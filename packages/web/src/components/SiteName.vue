<script setup lang="ts">
import type { SiteRow } from '../workers/answers/sites.ts';

/** A site in a table: its function, then its place; quiet when it is not the engineer's own. */
defineProps<{ site: Pick<SiteRow, 'functionName' | 'place' | 'shortPlace' | 'isOwn'> }>();
</script>

<template>
  <span :title="`${site.functionName} ${site.place}`"><code :class="{ quiet: !site.isOwn }">{{ site.functionName }}</code> <span class="quiet">{{ site.shortPlace }}</span></span>
</template>
