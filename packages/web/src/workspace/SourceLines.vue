<script setup lang="ts">
import type { FrameText, SourceExcerpt } from '@brisk-heron/core';
import { computed, ref, shallowRef, watch } from 'vue';
import InlineSelect from '../components/InlineSelect.vue';
import type { SourceAnswer } from '../sources/find-source.ts';
import { useSources } from '../stores/sources.ts';
import { useWorkspace } from '../stores/workspace.ts';

/**
 * The lines around a frame: as the recording carries them, else out of a folder that the user gives. Else its place, to
 * be copied.
 */
const props = defineProps<{ frame: FrameText | null; recorded: SourceExcerpt | null }>();
const workspace = useWorkspace();
const sources = useSources();
const answer = shallowRef<SourceAnswer | null>(null);
const told = ref('');
const isOver = ref(false);

const excerpt = computed(() => (answer.value?.ok === true ? answer.value.found.excerpt : props.recorded));
/** What every line is set in by says nothing in a narrow column. */
const indent = computed(() =>
  Math.min(
    40,
    ...(excerpt.value?.lines ?? []).filter((text) => text.trim() !== '').map((text) => /^ */.exec(text)![0].length),
  ),
);
const line = computed(() => (answer.value?.ok === true ? answer.value.found.line : props.frame?.line));
const from = computed(() => (answer.value?.ok === true ? answer.value.found : null));
const filePath = computed(() => props.frame?.file.replace(/^file:\/\//, '') ?? '');

let turn = 0;
async function look(prefer = ''): Promise<void> {
  const mine = ++turn;
  const found = props.frame === null ? null : await sources.find(props.frame, prefer);
  if (mine === turn) answer.value = found;
}
watch(
  () => [props.frame, sources.folder],
  () => void look(),
  { immediate: true },
);
watch(
  () => workspace.recordingId,
  (id) => void sources.open(id),
  { immediate: true },
);

async function copy(): Promise<void> {
  const place =
    from.value === null
      ? `${filePath.value}:${props.frame?.line}:${props.frame?.column}`
      : `${from.value.path}:${from.value.line}`;
  await navigator.clipboard.writeText(place);
  told.value = 'copied';
  setTimeout(() => {
    told.value = '';
  }, 3000);
}

function choose(event: Event): void {
  const field = event.target as HTMLInputElement;
  sources.takeFiles([...(field.files ?? [])]);
  field.value = '';
}

function dropped(event: DragEvent): void {
  isOver.value = false;
  if (event.dataTransfer !== null) void sources.drop(event.dataTransfer.items);
}
</script>

<template>
  <section
    :class="{ over: isOver }"
    aria-label="Source"
    @dragover.prevent="isOver = true"
    @dragleave="isOver = false"
    @drop.prevent.stop="dropped"
  >
    <div v-if="excerpt" class="source mono" data-test="source" tabindex="0" role="region" aria-label="Source lines">
      <div v-for="(text, place) in excerpt.lines" :key="place" :class="{ here: excerpt.firstLine + place === line }">
        <span class="number">{{ excerpt.firstLine + place }}</span>{{ text.slice(indent) }}
      </div>
    </div>
    <p v-else-if="frame && answer?.ok !== false" class="quiet">The recording carries no source of this file.</p>
    <p v-if="from" class="quiet condensed small" data-test="source-from">
      {{ from.path }}:{{ from.line }}, as it is in your folder now{{
        from.mappedFrom ? `; what ran is ${from.mappedFrom}` : ''
      }}
      <InlineSelect
        v-if="from.others.length > 0"
        label="File"
        :value="from.path"
        :options="[from.path, ...from.others].map((path) => [path, path] as const)"
        @choose="look"
      />
    </p>
    <p v-else-if="answer?.ok === false" class="small" role="status" data-test="source-problem">{{ answer.why }}</p>
    <p v-if="sources.problem" class="small urgent" role="alert">{{ sources.problem }}</p>
    <p v-if="frame" class="quiet condensed small actions">
      <v-btn variant="plain" @click="copy">copy the place for an editor</v-btn><span role="status">{{ told }}</span>
      <span v-if="sources.isListing">listing the folder …</span>
      <v-btn
        v-else-if="sources.folder"
        variant="plain"
        :title="
          sources.folder.isCut
            ? 'only the first 40,000 files were looked through'
            : `${sources.folder.files.length} files`
        "
        @click="sources.forget()"
      >
        forget the folder “{{ sources.folder.name }}”
      </v-btn>
      <v-btn v-else-if="sources.remembered" variant="plain" @click="sources.reopen()">
        read “{{ sources.remembered.name }}” again
      </v-btn>
      <v-btn
        v-else-if="sources.canPick"
        variant="plain"
        title="Or drop a folder here. It is read here and goes nowhere."
        data-test="source-folder"
        @click="sources.pick()"
      >
        read sources from a folder …
      </v-btn>
      <label v-else class="linklike"
        >read sources from a folder …<input
          type="file"
          webkitdirectory
          multiple
          class="visually-hidden"
          data-test="source-files"
          @change="choose"
      /></label>
    </p>
  </section>
</template>

<style scoped>
.over {
  outline: 2px dashed var(--ink-2);
  outline-offset: 3px;
}
.source {
  background: var(--paper);
  border: 1px solid var(--rule);
  padding: 5px 0;
  overflow-x: auto;
  font-size: 12px;
}
.source div {
  white-space: pre;
  padding: 0 8px;
}
.source .here {
  background: color-mix(in srgb, var(--attention) 14%, transparent);
}
.number {
  display: inline-block;
  width: 3.2em;
  color: var(--ink-2);
  user-select: none;
}
.source .here .number {
  color: var(--ink);
}
.small {
  font-size: 12px;
  margin: 4px 0 0;
  overflow-wrap: anywhere;
}
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
}
label:focus-within {
  outline: 2px solid var(--kept);
  outline-offset: 1px;
}
</style>
