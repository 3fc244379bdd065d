<script setup lang="ts">
import { formatBytes } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { useRouter } from 'vue-router';
import HeronMark from '../components/HeronMark.vue';
import ProgressLine from '../components/ProgressLine.vue';
import ThemeSwitch from '../components/ThemeSwitch.vue';
import type { RecordingRow } from '../db/heron-db.ts';
import { GUIDE_SAMPLES, useGuide } from '../stores/guide.ts';
import { liveId, useLibrary } from '../stores/library.ts';
import { droppedFiles } from './dropped-files.ts';
import RecordingDialogs from './RecordingDialogs.vue';
import RecordingsTable from './RecordingsTable.vue';
import SampleList from './SampleList.vue';
import StreamTable from './StreamTable.vue';

const ASK_MS = 2000;
const library = useLibrary();
const guide = useGuide();
const router = useRouter();
const over = ref(false);
const picker = ref<{ readonly $el: HTMLElement } | null>(null);
const picked = ref<File[]>([]);
const renaming = ref<RecordingRow | null>(null);
const deleting = ref<readonly RecordingRow[]>([]);
let timer = 0;

const recordings = computed(() => library.recordings?.filter((row) => row.id !== library.importingId) ?? null);
const kept = computed(() => new Set((library.recordings ?? []).map((row) => row.id)));
const connected = computed(() => library.streams.filter((stream) => stream.connected));
const onServer = computed(() =>
  library.streams.filter((stream) => !stream.connected && !kept.value.has(liveId(stream.id))),
);

onMounted(() => {
  document.title = 'Brisk Heron';
  // Where files are put, by whoever drives the page: the input itself.
  picker.value?.$el.querySelector('input')?.setAttribute('data-test', 'file');
  library.listen();
  void library.askServer();
  timer = window.setInterval(() => void library.askServer(), ASK_MS);
});
onBeforeUnmount(() => window.clearInterval(timer));

/** What a newcomer can do now. */
const firstSteps = computed(() => {
  const steps = [
    ...(connected.value.length > 0 ? ['open the connected program above'] : []),
    ...(library.samples.length > 0 ? ['open a sample below'] : []),
    'drop a GC log anywhere on this page',
  ].join(', or ');
  return `${steps[0]!.toUpperCase()}${steps.slice(1)}.`;
});

const open = (id: string): void => void router.push({ name: 'recording', params: { id, view: 'growth' } });

async function take(files: readonly File[]): Promise<void> {
  if (files.length === 0) return;
  const id = await library.importFiles(files);
  if (id !== null) open(id);
}

async function takeSample(name: string): Promise<void> {
  const id = await library.importSample(name);
  if (id !== null) open(id);
}

const hasGuide = computed(() => library.samples.some(({ file }) => file === GUIDE_SAMPLES.growing));
async function startHere(): Promise<void> {
  const id = await library.openSample(GUIDE_SAMPLES.growing);
  if (id === null) return;
  guide.go(0);
  open(id);
}

/** The leak beside its fix. */
async function compareSamples(): Promise<void> {
  const before = await library.openSample(GUIDE_SAMPLES.growing);
  const after = before === null ? null : await library.openSample(GUIDE_SAMPLES.fixed);
  if (after !== null)
    void router.push({ name: 'recording', params: { id: after, view: 'changes' }, query: { other: before } });
}

async function drop(event: DragEvent): Promise<void> {
  over.value = false;
  try {
    await take(await droppedFiles(event.dataTransfer?.items ?? []));
  } catch (error) {
    library.problem = error instanceof Error ? error.message : String(error);
  }
}

function closeDialogs(): void {
  renaming.value = null;
  deleting.value = [];
}

function pick(): void {
  const files = picked.value;
  picked.value = [];
  void take(files);
}
</script>

<template>
  <v-main tag="div" class="home" @dragover.prevent="over = true" @dragleave.self="over = false" @drop.prevent="drop">
    <header>
      <HeronMark />
      <div>
        <h1>Brisk Heron</h1>
        <span class="quiet">Is memory growing, what does collecting cost, and which lines are to blame?</span>
      </div>
      <ThemeSwitch />
    </header>
    <div class="columns">
      <main>
        <section v-if="connected.length > 0" data-test="connected">
          <h2>Connected now</h2>
          <StreamTable :streams="connected" since="since" recorded="recorded" live />
        </section>

        <section data-test="recordings">
          <h2>Recordings</h2>
          <v-alert
            v-if="library.told"
            type="info"
            variant="tonal"
            data-test="told"
            closable
            :text="library.told"
            @click:close="library.told = ''"
          />
          <v-alert
            v-if="library.problem"
            type="error"
            data-test="problem"
            closable
            :text="library.problem"
            @click:close="library.problem = ''"
          />
          <div v-if="library.importing && recordings?.length === 0" class="importing">
            <ProgressLine :progress="library.importing" />
            <v-btn @click="library.cancelImport()">Cancel</v-btn>
          </div>
          <div v-if="library.exporting" class="importing" data-test="exporting">
            <ProgressLine :progress="library.exporting" />
            <v-btn @click="library.cancelExport()">Cancel</v-btn>
          </div>
          <p v-if="recordings === null" class="quiet">Looking into the browser's store …</p>
          <p v-else-if="recordings.length === 0 && !library.importing" class="quiet">
            None in this browser yet. {{ firstSteps }}
          </p>
          <RecordingsTable
            v-else-if="recordings.length > 0"
            :recordings="recordings"
            @rename="(row) => (renaming = row)"
            @remove="(rows) => (deleting = rows)"
          />
        </section>

        <p v-if="library.use" class="quiet store" data-test="store">
          <span :class="{ urgent: library.use.isNearlyFull }"
            >This browser holds {{ formatBytes(library.use.usedBytes) }} for this page and may hold
            {{ formatBytes(library.use.mayHoldBytes) }}.</span
          >
          <template v-if="library.use.isNearlyFull">
            Export what you want to keep, and delete what you do not need.</template
          >
          <template v-if="!library.use.persistent">
            It may drop recordings when the disk gets short.
            <v-btn variant="plain" data-test="keep" @click="library.askToKeep()"> ask it to keep them </v-btn></template
          >
          <template v-else> It keeps them until you delete them.</template>
        </p>

        <section v-if="library.samples.length > 0" data-test="samples">
          <h2>Samples to look at</h2>
          <p v-if="hasGuide" class="start">
            <v-btn data-test="start-here" @click="startHere">Start here</v-btn>
            <span class="quiet">a memory leak, from the first question to the fix, in five steps</span>
          </p>
          <p v-if="hasGuide" class="start">
            <v-btn data-test="compare-samples" @click="compareSamples">Did the fix work?</v-btn>
            <span class="quiet">the same service before and after, side by side</span>
          </p>
          <SampleList :samples="library.samples" @take="({ file }) => takeSample(file)" />
        </section>

        <section v-if="onServer.length > 0">
          <h2>Recorded by this server before</h2>
          <StreamTable :streams="onServer.slice(0, 20)" since="began" recorded="size" />
        </section>
      </main>

      <aside>
        <div class="drop" :class="{ over }">
          <p>
            <strong>Drop files here</strong><br /><span class="quiet"
              >a recording, a log of a collector (OpenJDK <code>-Xlog:gc*</code>, Node <code>--trace-gc</code>, Go,
              CPython, Ruby); plain or .gz; parts of a rotated log together, or a folder of them</span
            >
          </p>
          <v-btn @click="picker?.$el.querySelector('input')?.click()">Choose files</v-btn>
          <v-file-input
            ref="picker"
            v-model="picked"
            class="visually-hidden"
            multiple
            tabindex="-1"
            label="Choose files"
            @update:model-value="pick"
          />
        </div>
        <section>
          <h3>Record a program of your own</h3>
          <pre class="mono">./heron record -- node app.js</pre>
          <pre class="mono">./heron record -- java -jar app.jar</pre>
          <p class="quiet">
            It shows here, live; <code>./heron attach PID</code> does the same for a Node program or a JVM that runs
            already, <code>./heron follow gc.log</code> for a collector's log as it grows. A finished log (<code
              >java -Xlog:gc*:file=gc.log</code
            >) can be dropped on this page.
          </p>
        </section>
        <p v-if="library.serverRefuses" class="urgent" role="status">
          The server does not know this browser any more. Open the address that the command line printed, which carries
          a token once.
        </p>
        <p v-else-if="!library.serverReached" class="urgent" role="status">
          The server is not reached: recordings in this browser can be looked at, live ones cannot.
        </p>
      </aside>
    </div>

    <RecordingDialogs :renaming="renaming" :deleting="deleting" @done="closeDialogs" />
  </v-main>
</template>

<style scoped>
.home {
  height: 100vh;
  overflow: auto;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 16px 28px 14px;
  border-bottom: 1px solid var(--rule);
}
header :last-child {
  margin-left: auto;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 290px;
  gap: 40px;
  padding: 20px 28px 40px;
  max-width: 1500px;
}
section {
  margin-bottom: 26px;
  overflow-x: auto;
}
h2 {
  margin-bottom: 6px;
}
.store {
  font-size: 13px;
  margin: -14px 0 26px;
}
.start {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin: 6px 0 10px;
}
.drop {
  border: 1.5px dashed var(--ink-2);
  padding: 14px 16px;
  margin-bottom: 24px;
}
.drop p {
  margin: 0 0 10px;
}
.drop.over {
  background: var(--chosen);
  border-color: var(--kept);
}
pre {
  background: var(--paper-2);
  padding: 6px 9px;
  margin: 6px 0;
  white-space: pre-wrap;
  font-size: 11px;
}
.importing {
  max-width: 520px;
  margin-bottom: 16px;
}
.importing .plain-button {
  margin-top: 10px;
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: minmax(0, 1fr) 230px;
    gap: 24px;
  }
}
</style>
