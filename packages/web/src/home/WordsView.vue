<script setup lang="ts">
import { nextTick, onMounted } from 'vue';
import { useRoute } from 'vue-router';
import HeronMark from '../components/HeronMark.vue';
import { slugOf } from '../words/read-words.ts';
import { MEASURE_TEXTS, WORDS } from '../words/words.ts';

/** All words of the page with their meaning, and how each figure is counted. */
const route = useRoute();

/** `code` and plain text in turn: enough of the notation of the docs to be read. */
const partsOf = (text: string): string[] => text.replaceAll('**', '').replaceAll('*', '').split('`');
const paragraphsOf = (text: string): string[] => text.split(/\n(?=\*Example\*)|\n\n/);

onMounted(async () => {
  document.title = 'Words · Brisk Heron';
  await nextTick();
  document.getElementById(route.hash.slice(1))?.scrollIntoView();
});
</script>

<template>
  <div class="words">
    <header>
      <router-link to="/" class="home" aria-label="All recordings"><HeronMark /></router-link>
      <h1>Words, and how they are counted</h1>
    </header>
    <main>
      <v-table class="dense">
        <tbody>
          <tr v-for="{ word, meaning, measure } in WORDS" :id="measure ? undefined : slugOf(word)" :key="word">
            <td>
              <b>{{ word }}</b>
            </td>
            <td class="text meaning">{{ meaning }}</td>
            <td class="text">
              <a v-if="measure" :href="`#${slugOf(measure)}`">{{ measure }}</a>
            </td>
          </tr>
        </tbody>
      </v-table>
      <section v-for="{ title, slug, text } in MEASURE_TEXTS" :id="slug" :key="slug">
        <h2>{{ title }}</h2>
        <p v-for="(paragraph, place) in paragraphsOf(text)" :key="place">
          <template v-for="(part, at) in partsOf(paragraph)" :key="at"
            ><code v-if="at % 2 === 1">{{ part }}</code
            ><template v-else>{{ part }}</template></template
          >
        </p>
      </section>
    </main>
  </div>
</template>

<style scoped>
.words {
  height: 100dvh;
  overflow: auto;
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 14px 28px;
  border-bottom: 1px solid var(--rule);
}
.home {
  color: var(--ink);
  line-height: 0;
}
main {
  padding: 14px 28px 60px;
  max-width: 1000px;
}
.v-table.dense :deep(td.meaning) {
  white-space: normal !important;
  width: 70%;
}
section {
  margin-top: 20px;
  max-width: 84ch;
}
section:target h2 {
  border-left: 4px solid var(--kept);
  padding-left: 8px;
}
h2 {
  font-size: 14.5px;
}
p {
  margin: 4px 0;
}
</style>
