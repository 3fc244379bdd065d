<script setup lang="ts">
import { ref } from 'vue';

/** The edge of a column's head: dragged it sets the width, a double click the usual one. Keys do so in the list of columns. */
const emit = defineEmits<{ resize: [width: number | null] }>();
const grip = ref<HTMLElement | null>(null);
const fromX = ref<number | null>(null);
let fromWidth = 0;

const width = (): number => grip.value?.parentElement?.getBoundingClientRect().width ?? 0;

function begin(event: PointerEvent): void {
  grip.value?.setPointerCapture(event.pointerId);
  fromX.value = event.clientX;
  fromWidth = width();
}

function move(event: PointerEvent): void {
  if (fromX.value !== null) emit('resize', fromWidth + event.clientX - fromX.value);
}
</script>

<template>
  <span
    ref="grip"
    class="grip"
    aria-hidden="true"
    :class="{ held: fromX !== null }"
    title="Drag to set the width; a double click sets the usual one"
    @pointerdown.stop.prevent="begin"
    @pointermove="move"
    @pointerup="fromX = null"
    @pointercancel="fromX = null"
    @dblclick.stop="emit('resize', null)"
    @click.stop
  />
</template>

<style scoped>
.grip {
  position: absolute;
  right: -3px;
  top: 4px;
  bottom: 4px;
  width: 7px;
  cursor: col-resize;
  touch-action: none;
}
.grip:hover,
.held {
  border-right: 2px solid var(--ink-2);
}
</style>
