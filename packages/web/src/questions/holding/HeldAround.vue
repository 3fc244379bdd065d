<script setup lang="ts">
import { formatBytes, type HoldingAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import { useHolding } from './holding-state.ts';
import OneObject from './OneObject.vue';

/** What stands around the objects of a key: who refers to them, to what they refer, what they hold, the largest. */
const props = defineProps<{ around: NonNullable<HoldingAnswer['around']> }>();

interface Line {
  readonly words: string;
  readonly count: string;
  readonly bytes: string;
  /** Row of the object that it tells; undefined where it tells several. */
  readonly object?: number;
}
const holding = useHolding();
const count = (value: number): string => value.toLocaleString('en');
const lists = computed<readonly { readonly title: string; readonly lines: readonly Line[] }[]>(() => {
  const { referredBy, refersTo, holds, largest, some } = props.around;
  const reference = ({ words, references, ownBytes }: (typeof referredBy)[number]): Line => ({
    words,
    count: count(references),
    bytes: formatBytes(ownBytes),
  });
  const single = ({ object, id, type, heldBytes, ownBytes, site, text }: (typeof largest)[number]): Line => ({
    object,
    words: [
      `${type} ${id.toString(16)}`,
      ...(text === '' ? [] : [`“${text}”`]),
      ...(site === '' ? [] : [`allocated at ${site}`]),
    ].join(', '),
    count: formatBytes(ownBytes),
    bytes: formatBytes(heldBytes),
  });
  return [
    { title: 'referred to by: references, bytes of those who refer', lines: referredBy.map(reference) },
    { title: 'refer to: references, bytes of what is referred to', lines: refersTo.map(reference) },
    {
      title: 'hold, by type: objects, bytes',
      lines: holds.map(({ type, objects, ownBytes }) => ({
        words: type,
        count: count(objects),
        bytes: formatBytes(ownBytes),
      })),
    },
    { title: 'the largest: own bytes, held bytes', lines: largest.map(single) },
    { title: 'some, evenly over all: own bytes, held bytes', lines: some.map(single) },
  ].filter(({ lines }) => lines.length > 0);
});
</script>

<template>
  <v-expansion-panels class="around" data-test="held-around">
    <v-expansion-panel title="What stands around them">
      <v-expansion-panel-text>
        <div class="lists">
          <v-table v-for="{ title, lines } in lists" :key="title" class="dense">
            <caption class="quiet condensed">
              {{
                title
              }}
            </caption>
            <tbody>
              <tr v-for="({ words, count: many, bytes, object }, at) in lines" :key="at">
                <td class="wide text" :title="words">
                  <button v-if="object !== undefined" type="button" class="row-name" @click="holding.lookAt(object)">
                    <code>{{ words }}</code>
                  </button>
                  <code v-else>{{ words }}</code>
                </td>
                <td>{{ many }}</td>
                <td>{{ bytes }}</td>
              </tr>
            </tbody>
          </v-table>
        </div>
        <OneObject v-if="holding.object" :object="holding.object" />
      </v-expansion-panel-text>
    </v-expansion-panel>
  </v-expansion-panels>
</template>

<style scoped>
.around {
  margin-top: 6px;
}
.lists {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(340px, 1fr));
  gap: 6px 18px;
  max-height: 300px;
  overflow: auto;
}
caption {
  text-align: left;
}
.wide {
  max-width: 0;
  width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
