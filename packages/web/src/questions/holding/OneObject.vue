<script setup lang="ts">
import { formatBytes, type HoldingAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import { useHolding } from './holding-state.ts';

/** One object: its fields with what they refer to, and who refers to it; each of these can be gone to. */
const props = defineProps<{ object: NonNullable<HoldingAnswer['object']> }>();
const holding = useHolding();
type Reference = (typeof props.object.fields)[number];
const named = ({ type, id, text }: Reference['other']): string =>
  `${type} ${id.toString(16)}${text === '' ? '' : ` “${text}”`}`;
const lists = computed(() => {
  const { fields, fieldCount, referredBy, referrerCount } = props.object;
  return [
    { title: 'its fields that refer to something', all: fieldCount, references: fields },
    { title: 'who refers to it', all: referrerCount, references: referredBy },
  ];
});
</script>

<template>
  <section class="one" aria-label="One object" data-test="one-object">
    <p>
      <code>{{ named(object.self) }}</code>: {{ formatBytes(object.self.ownBytes) }} own,
      {{ formatBytes(object.self.heldBytes) }} held.{{ ' ' }}
      <v-btn variant="plain" @click="holding.lookAt(null)">close it</v-btn>
    </p>
    <div v-if="object.values !== null && object.values.length > 0" data-test="values">
      <p class="quiet condensed">what stands in its fields</p>
      <ul>
        <li v-for="({ name, value }, at) in object.values" :key="at">
          <code>{{ name }} = {{ value }}</code>
        </li>
      </ul>
    </div>
    <div v-for="{ title, all, references } in lists" :key="title">
      <p class="quiet condensed">
        {{ title
        }}<template v-if="all > references.length"
          >, {{ references.length }} of {{ all.toLocaleString('en') }}</template
        >
      </p>
      <ul>
        <li v-for="({ words, other }, at) in references" :key="at">
          <code>{{ words }}</code>{{ ' ' }}
          <button type="button" class="row-name" @click="holding.lookAt(other.object)">
            <code>{{ named(other) }}</code></button
          >{{ ' ' }}<span class="quiet">{{ formatBytes(other.heldBytes) }}</span>
        </li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.one {
  margin-top: 8px;
  padding-top: 6px;
  border-top: 1px solid var(--rule);
}
.one p {
  margin: 0 0 2px;
}
ul {
  margin: 0 0 4px;
  padding-left: 16px;
  max-height: 160px;
  overflow: auto;
}
li {
  overflow-wrap: anywhere;
}
</style>
