<script setup lang="ts">
import { computed } from 'vue';

/** The figures of a chart as text, a row a line; only those in sight are in the document. Takes the height there is. */
const props = defineProps<{
  columns: readonly string[];
  rows: readonly (readonly string[])[];
  /** What going to a row means; rows are no buttons without it. */
  goTitle?: string | undefined;
}>();
const emit = defineEmits<{ go: [row: number] }>();
const ROW = 29;
const headers = computed(() => props.columns.map((title) => ({ key: title, title, value: () => null })));
const items = computed(() => props.rows.map((cells, place) => ({ cells, place })));
</script>

<template>
  <v-data-table-virtual
    class="dense"
    :headers="headers"
    :items="items"
    :item-value="({ place }: { place: number }) => place"
    :item-height="ROW"
    height="100%"
    fixed-header
  >
    <template #headers>
      <tr>
        <th v-for="column in columns" :key="column" scope="col">{{ column }}</th>
      </tr>
    </template>
    <template #item="{ item: { cells, place } }">
      <tr class="row">
        <td v-for="(cell, at) in cells" :key="at">
          <v-btn v-if="goTitle && at === 0" variant="plain" :title="goTitle" @click="emit('go', place)">{{
            cell
          }}</v-btn><template v-else>{{ cell }}</template>
        </td>
      </tr>
    </template>
  </v-data-table-virtual>
</template>

<style scoped>
.v-table {
  height: 100%;
}
</style>
