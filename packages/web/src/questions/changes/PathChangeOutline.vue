<script setup lang="ts">
import { type ChangedPathRow, formatBytes, type PathChangesAnswer } from '@brisk-heron/core';
import { computed } from 'vue';
import PathOutlineTree from '../../components/PathOutlineTree.vue';
import { outlineLines } from '../../components/outline-lines.ts';
import DifferenceBar from './DifferenceBar.vue';
import { useChanges } from './changes-state.ts';
import { intervalText, signed } from './changes-words.ts';

/** Call paths of both sides as one outline: A, B and the difference at every node. Only the rows in sight are there. */
const props = defineProps<{ answer: PathChangesAnswer }>();
const { tree } = useChanges();
const HALF = 30;
const lines = computed(() => outlineLines(props.answer.children, props.answer.open));
const most = computed(() => lines.value.reduce((top, { row }) => Math.max(top, Math.abs(row.difference)), 0));
const isClear = ({ low, high }: ChangedPathRow): boolean => low > 0 || high < 0;
</script>

<template>
  <div class="filling">
    <div class="heads condensed quiet" aria-hidden="true">
      <span class="what">{{ tree.direction === 'entry' ? 'from the entry down' : 'from the allocation up' }}</span><span
        class="side"
        >A</span
      ><span class="side">B</span><span class="difference">difference</span><span class="bar">less · more</span>
    </div>
    <PathOutlineTree
      :children="answer.children"
      :open="answer.open"
      label="Call paths of both sides"
      test="change-outline"
      way-key="i"
      @toggle="tree.toggle"
      @way="tree.openGrowth"
    >
      <template #default="{ row }">
        <span class="side">{{ formatBytes(row.a) }}</span>
        <span class="side">{{ formatBytes(row.b) }}</span>
        <span class="difference" :class="{ quiet: !isClear(row) }"
          >{{ signed('bytes', row.difference) }}{{ ' ' }}
          <span class="quiet">{{ intervalText('bytes', row) }}</span></span
        >
        <DifferenceBar class="bar" :difference="row.difference" :most="most" :half="HALF" :is-clear="isClear(row)" />
      </template>
    </PathOutlineTree>
    <p class="quiet small">
      Key i opens the way of the greatest increase. A difference in quiet letters is not clear.{{
        answer.leftOut > 0 ? ` ${answer.leftOut} lighter ones are left out.` : ''
      }}
    </p>
  </div>
</template>

<style scoped>
.heads {
  display: flex;
  align-items: center;
  height: 25px;
  white-space: nowrap;
  padding-right: 14px;
  border-bottom: 1px solid var(--ink);
}
.what {
  flex: 1 1 auto;
  overflow: hidden;
  text-overflow: ellipsis;
}
.side,
.difference {
  flex: 0 0 84px;
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.difference {
  flex-basis: 172px;
}
.bar {
  flex: 0 0 61px;
  margin-left: 14px;
}
</style>
