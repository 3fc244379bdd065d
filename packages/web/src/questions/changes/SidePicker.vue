<script setup lang="ts">
import { computed, onMounted } from 'vue';
import InlineSelect from '../../components/InlineSelect.vue';
import { useLibrary } from '../../stores/library.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { useChanges } from './changes-state.ts';
import { extentText } from './changes-words.ts';
import { idOf, partChoices, WHOLE } from './side-part.ts';

/** Which two sides are compared: one is what the page looks at, the other is chosen here. */
const workspace = useWorkspace();
const library = useLibrary();
const changes = useChanges();
onMounted(() => library.listen());

const SELF = 'self';
const others = computed(() =>
  (library.recordings ?? []).filter(({ id, importing }) => id !== workspace.recordingId && !importing),
);
const options = computed<(readonly [string, string])[]>(() => [
  ['', 'nothing yet'],
  [SELF, 'another part of this recording'],
  ...others.value.map(({ id, name, startedEpochMs }) => [id, `${name} · ${began(startedEpochMs)}`] as const),
]);
const chosen = computed(() =>
  changes.otherId === workspace.recordingId && changes.otherId !== '' ? SELF : changes.otherId,
);

function began(epochMs: number): string {
  return new Date(epochMs).toLocaleString('en-GB', { dateStyle: 'short', timeStyle: 'short' });
}

/** What began later came after; of this recording, the span that is looked at came before. */
function choose(id: string): void {
  if (id === SELF) {
    const { span, durationMs } = workspace;
    const before = span ?? { fromMs: 0, toMs: durationMs / 2 };
    changes.compareWith(workspace.recordingId, { ...WHOLE, extent: { kind: 'span', ...before } }, false);
    // What follows it is looked at from here on.
    if (before.toMs < durationMs) workspace.setSpan({ fromMs: before.toMs, toMs: durationMs });
    return;
  }
  const mine = library.recordings?.find((row) => row.id === workspace.recordingId);
  const other = others.value.find((row) => row.id === id);
  changes.compareWith(id, WHOLE, (other?.startedEpochMs ?? 0) > (mine?.startedEpochMs ?? Infinity));
}

// What else of its recording the other side could be: rounds, runs, kept moments; a span is chosen on its ribbon.
const parts = computed(() => {
  const { answer, isOtherAfter, otherPart } = changes;
  if (answer === null) return [];
  const moments = chosen.value === SELF ? workspace.notebook.moments : [];
  return partChoices(isOtherAfter ? answer.b : answer.a, otherPart, moments);
});
const partOptions = computed(() => parts.value.map(({ id, words }) => [id, words] as const));
function choosePart(id: string): void {
  const found = parts.value.find((each) => each.id === id);
  if (found !== undefined) changes.choosePart(found.part);
}

const sides = computed(() => {
  const { answer, isOtherAfter, otherPart } = changes;
  if (answer === null) return [];
  const isWhole = (isOther: boolean): boolean =>
    isOther ? otherPart.extent?.kind === 'whole' : workspace.span === null;
  return [
    { letter: 'A', side: answer.a, isWhole: isWhole(!isOtherAfter), isOther: !isOtherAfter },
    { letter: 'B', side: answer.b, isWhole: isWhole(isOtherAfter), isOther: isOtherAfter },
  ];
});
</script>

<template>
  <div class="condensed picker">
    <span class="quiet">compared with</span>{{ ' ' }}
    <InlineSelect
      label="Compared with"
      :value="chosen"
      :options="options"
      data-test="compare-with"
      @choose="(id) => choose(id)"
    />
    <InlineSelect
      v-if="partOptions.length > 1"
      label="What of it"
      :value="idOf(changes.otherPart)"
      :options="partOptions"
      data-test="compare-part"
      @choose="choosePart"
    />
    <template v-if="changes.answer">
      <v-btn variant="plain" data-test="turn-sides" @click="changes.turn">turn A and B round</v-btn>
    </template>
    <ul v-if="sides.length > 0" class="sides">
      <li v-for="{ letter, side, isWhole, isOther } in sides" :key="letter" :data-test="`side-${letter}`">
        <b :class="`side-${letter.toLowerCase()}`">{{ letter }}</b>
        {{ letter === 'A' ? 'before' : 'after' }}: {{ side.name }}{{ ' '
        }}<span class="quiet"
          >{{ isOther ? '' : '(looked at) ' }}{{ extentText(side, isWhole) }} · {{ side.sentence }}</span
        >
      </li>
    </ul>
    <p v-else-if="changes.otherId !== '' && !changes.problem" class="quiet">Reading the other side …</p>
  </div>
</template>

<style scoped>
.picker > :deep(*) {
  margin-right: 10px;
}
.picker {
  margin: 4px 0;
}
.sides {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}
.sides li {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
b {
  display: inline-block;
  width: 16px;
}
.side-a {
  color: var(--side-a);
}
.side-b {
  color: var(--side-b);
}
</style>
