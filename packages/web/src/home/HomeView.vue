<script setup lang="ts">
import { formatBytes, formatDuration } from '@brisk-heron/core';
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { useRouter } from 'vue-router';
import HeronMark from '../components/HeronMark.vue';
import ProgressLine from '../components/ProgressLine.vue';
import ThemeSwitch from '../components/ThemeSwitch.vue';
import { shortRuntime } from '../components/figures.ts';
import type { RecordingRow } from '../db/heron-db.ts';
import { liveId, useLibrary } from '../stores/library.ts';
import RecordingDialogs from './RecordingDialogs.vue';
import RecordingStrip from './RecordingStrip.vue';
import StreamTable from './StreamTable.vue';
import { when } from './when.ts';

const ASK_MS = 2000;
const library = useLibrary();
const router = useRouter();
const over = ref(false);
const picker = ref<HTMLInputElement | null>(null);
const renaming = ref<RecordingRow | null>(null);
const deleting = ref<RecordingRow | null>(null);
let timer = 0;

const recordings = computed(() => library.recordings?.filter((row) => row.id !== library.importingId) ?? null);
const kept = computed(() => new Set((library.recordings ?? []).map((row) => row.id)));
const connected = computed(() => library.streams.filter((stream) => stream.connected));
const onServer = computed(() =>
  library.streams.filter((stream) => !stream.connected && !kept.value.has(liveId(stream.id))),
);

onMounted(() => {
  document.title = 'Brisk Heron';
  library.listen();
  void library.askServer();
  timer = window.setInterval(() => void library.askServer(), ASK_MS);
});
onBeforeUnmount(() => window.clearInterval(timer));

/** What a newcomer can do now. */
const firstSteps = computed(() => {
  const steps = [
    ...(connected.value.length > 0 ? ['open the connected program above'] : []),
    ...(library.samples.length > 0 ? ['open a sample on the right'] : []),
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

function drop(event: DragEvent): void {
  over.value = false;
  void take([...(event.dataTransfer?.files ?? [])]);
}

function pick(): void {
  const files = [...(picker.value?.files ?? [])];
  if (picker.value !== null) picker.value.value = '';
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
          <div v-if="library.importing" class="importing">
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
          <table v-else-if="recordings.length > 0" class="dense">
            <thead>
              <tr>
                <th scope="col">recording</th>
                <th scope="col" class="text">verdict</th>
                <th scope="col" class="text strip">memory</th>
                <th scope="col">when</th>
                <th scope="col">length</th>
                <th scope="col">size</th>
                <th scope="col"><span class="visually-hidden">actions</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in recordings" :key="row.id" data-test="recording-row">
                <td class="who">
                  <router-link :to="{ name: 'recording', params: { id: row.id, view: 'growth' } }">{{
                    row.name || row.program
                  }}</router-link><br /><span class="quiet" :title="row.runtime">{{ shortRuntime(row.runtime) }}</span>
                </td>
                <td class="text verdict" :title="row.sentence">
                  {{ row.sentence || 'not read to its end'
                  }}<template v-if="row.missing"
                    ><br /><span class="urgent" data-test="row-missing" :title="row.missing"
                      >Of a part only. {{ row.missing }}</span
                    ></template
                  >
                </td>
                <td class="text strip"><RecordingStrip :values="row.strip" /></td>
                <td>{{ when(row.startedEpochMs) }}</td>
                <td>{{ formatDuration(row.durationMs) }}</td>
                <td>{{ formatBytes(row.bytes) }}</td>
                <td class="actions">
                  <button type="button" class="linklike" @click="renaming = row">rename</button>
                  <button type="button" class="linklike" @click="library.exportRecording(row.id)">export</button>
                  <button type="button" class="linklike" @click="deleting = row">delete</button>
                </td>
              </tr>
            </tbody>
          </table>
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
            <button type="button" class="linklike" data-test="keep" @click="library.askToKeep()">
              ask it to keep them
            </button></template
          >
          <template v-else> It keeps them until you delete them.</template>
        </p>

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
              CPython, Ruby); plain or .gz; parts of a rotated log together</span
            >
          </p>
          <v-btn @click="picker?.click()">Choose files</v-btn>
          <input
            ref="picker"
            type="file"
            multiple
            class="visually-hidden"
            tabindex="-1"
            aria-label="Choose files"
            data-test="file"
            @change="pick"
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
        <section v-if="library.samples.length > 0" data-test="samples">
          <h3>Samples to look at</h3>
          <ul>
            <li v-for="sample in library.samples" :key="sample">
              <button type="button" class="linklike" @click="takeSample(sample)">
                {{ sample.replace(/\.(heron|log)$/, '') }}
              </button>
            </li>
          </ul>
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

    <RecordingDialogs :renaming="renaming" :deleting="deleting" @done="renaming = deleting = null" />
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
.who {
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
  line-height: 1.3;
}
.who .quiet {
  font-size: 12px;
}
.verdict {
  min-width: 180px;
  width: 60%;
  white-space: normal !important;
  line-height: 1.3;
  font-size: 13px;
}
.actions button {
  margin-left: 8px;
  color: var(--ink-2);
  font-size: 12.5px;
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
ul {
  padding-left: 18px;
  margin: 4px 0;
}
.importing {
  max-width: 520px;
  margin-bottom: 16px;
}
.importing .plain-button {
  margin-top: 10px;
}
@media (max-width: 1100px) {
  .strip {
    display: none;
  }
  .who {
    max-width: 150px;
  }
  .columns {
    grid-template-columns: minmax(0, 1fr) 230px;
    gap: 24px;
  }
}
</style>
