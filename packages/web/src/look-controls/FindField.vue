<script setup lang="ts">
import { type FindOption, findPartAt, readFind, takeOption } from '@brisk-heron/core';
import { computed, nextTick, onMounted, ref, shallowRef } from 'vue';
import { savedFinds, saveFinds } from '../db/heron-db.ts';
import { useLibrary } from '../stores/library.ts';
import { useWorkspace } from '../stores/workspace.ts';

/**
 * One field for every view and the ribbon: what it does not let through is counted nowhere. Terms are completed as they
 * are typed; finds can be saved.
 */
const workspace = useWorkspace();
const { db } = useLibrary();
const HINT =
  'Words are found anywhere. In one place: function= file= package= type= thread= heap=. Of objects: size>1MiB, age<5s, fate=kept, died or recent, kind=object or flow. Behind ! what must not be there. "…" keeps blanks together.';

const frame = ref<HTMLElement | null>(null);
const isOpen = ref(false);
const active = ref(-1);
const completed = shallowRef<readonly FindOption[]>([]);
const saved = shallowRef<readonly string[]>([]);
const text = computed(() => workspace.find ?? '');
const problem = computed(() => readFind(text.value).problem);
const canSave = computed(
  () => text.value.trim() !== '' && problem.value === '' && !saved.value.includes(text.value.trim()),
);
const options = computed<readonly FindOption[]>(() =>
  text.value.trim() === '' ? saved.value.map((each) => ({ text: each, hint: 'saved' })) : completed.value,
);
const isShown = computed(() => isOpen.value && (options.value.length > 0 || canSave.value));
const optionId = (place: number): string => `find-option-${place}`;
let turn = 0;

onMounted(async () => {
  // The component's own role would stand on what surrounds the input.
  input()?.setAttribute('role', 'combobox');
  saved.value = await savedFinds(db);
});

const input = (): HTMLInputElement | null => frame.value?.querySelector('input') ?? null;
const caret = (): number => input()?.selectionStart ?? text.value.length;

async function complete(): Promise<void> {
  const mine = ++turn;
  active.value = -1;
  const found = text.value.trim() === '' ? [] : await workspace.complete(text.value, caret());
  if (mine === turn) offer(found);
}

// Options may come late: one that was gone to meanwhile stays the active one.
function offer(found: readonly FindOption[]): void {
  const gone = options.value[active.value]?.text;
  completed.value = found;
  active.value = gone === undefined ? -1 : options.value.findIndex(({ text: each }) => each === gone);
}

function typed(): void {
  isOpen.value = true;
  void nextTick(complete);
}

async function take(option: FindOption): Promise<void> {
  const taken =
    text.value.trim() === '' ? takeOption('', 0, option.text) : takeOption(text.value, caret(), option.text);
  workspace.find = taken.text;
  await nextTick();
  input()?.setSelectionRange(taken.caret, taken.caret);
  input()?.focus();
  turn++;
  if (option.text.endsWith('=')) await complete();
  else offer([]);
}

async function keep(finds: readonly string[]): Promise<void> {
  saved.value = finds;
  await saveFinds(db, finds);
}

function key(event: KeyboardEvent): void {
  const last = options.value.length - 1;
  switch (event.key) {
    case 'ArrowDown':
      if (isOpen.value) active.value = active.value >= last ? -1 : active.value + 1;
      else typed();
      break;
    case 'ArrowUp':
      active.value = active.value < 0 ? last : active.value - 1;
      break;
    case 'Enter': {
      const option = options.value[active.value];
      if (option === undefined) isOpen.value = false;
      else void take(option);
      break;
    }
    case 'Escape':
      if (!isShown.value) return;
      isOpen.value = false;
      event.stopPropagation();
      break;
    default:
      return;
  }
  event.preventDefault();
}

// Focus that moves to a button of the list stays within.
function left(event: FocusEvent): void {
  if (!(event.relatedTarget instanceof Node) || frame.value?.contains(event.relatedTarget) !== true)
    isOpen.value = false;
}

/** The part of an option that was typed, in the middle of what was not. */
const wanted = computed(() =>
  completed.value.length === 0
    ? ''
    : findPartAt(text.value, caret())
        .text.replace(/^!?(?:[a-z]+=)?"?/, '')
        .toLowerCase(),
);
function parts(option: string): readonly [string, string, string] {
  const at = wanted.value === '' ? -1 : option.toLowerCase().lastIndexOf(wanted.value);
  return at < 0
    ? [option, '', '']
    : [option.slice(0, at), option.slice(at, at + wanted.value.length), option.slice(at + wanted.value.length)];
}
</script>

<template>
  <div ref="frame" class="find" data-test="find" @focusout="left">
    <v-text-field
      v-model="workspace.find"
      placeholder="Find a function, file, line, type, size> …"
      aria-label="Find"
      :title="HINT"
      spellcheck="false"
      autocomplete="off"
      aria-autocomplete="list"
      :aria-expanded="isShown"
      aria-controls="find-options"
      :aria-activedescendant="active >= 0 ? optionId(active) : undefined"
      :error="problem !== '' && !isShown"
      :aria-invalid="problem !== '' && !isShown"
      aria-describedby="find-problem"
      @input="typed"
      @focus="typed"
      @click="typed"
      @keydown="key"
    >
      <template #append-inner>
        <v-btn v-if="text !== ''" variant="plain" class="quiet clear" @click.stop="workspace.find = ''">clear</v-btn>
      </template>
    </v-text-field>
    <p id="find-problem" class="condensed problem" role="status">{{ isShown ? '' : problem }}</p>
    <v-sheet v-show="isShown" class="list condensed" data-test="find-list">
      <v-list id="find-options" role="listbox" aria-label="What may be found">
        <v-list-item
          v-for="(option, place) in options"
          :id="optionId(place)"
          :key="option.text"
          role="option"
          tabindex="-1"
          :aria-selected="place === active"
          :active="place === active"
          @pointerdown.prevent
          @click="take(option)"
        >
          <span class="what"
            ><template v-for="(part, at) in parts(option.text)" :key="at"
              ><b v-if="at === 1">{{ part }}</b
              ><template v-else>{{ part }}</template></template
            ></span
          >
          <template #append
            ><span class="quiet">{{ option.hint }}</span></template
          >
        </v-list-item>
      </v-list>
      <v-btn
        v-if="canSave"
        variant="plain"
        class="quiet more"
        data-test="save-find"
        @click="keep([text.trim(), ...saved])"
      >
        save this find
      </v-btn>
      <v-btn
        v-else-if="saved.includes(text.trim())"
        variant="plain"
        class="quiet more"
        @click="keep(saved.filter((each) => each !== text.trim()))"
      >
        forget this saved find
      </v-btn>
    </v-sheet>
  </div>
</template>

<style scoped>
.find {
  position: relative;
  flex: 0 1 300px;
  margin-left: auto;
}
/* What is wrong is said below the field without moving what stands there. */
.problem {
  position: absolute;
  z-index: 10;
  top: 30px;
  right: 0;
  margin: 0;
  padding: 3px 9px;
  background: var(--paper);
  border: 1px solid var(--attention);
  color: var(--attention-text);
  width: max-content;
  max-width: 440px;
}
.problem:empty {
  display: none;
}
.list {
  position: absolute;
  z-index: 20;
  right: 0;
  top: 30px;
  min-width: 100%;
  max-width: 520px;
  background: var(--paper);
  border: 1px solid var(--ink-2);
  max-height: 60vh;
  overflow: auto;
  padding-bottom: 3px;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
}
.what b {
  font-weight: 600;
}
.more {
  margin: 3px 9px 2px;
}
</style>
