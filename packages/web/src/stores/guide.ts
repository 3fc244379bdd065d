import { defineStore } from 'pinia';
import { computed, ref } from 'vue';

/** Sample recordings that the guide leads through. */
export const GUIDE_SAMPLES = {
  growing: 'tidewatch-with-its-leak-and-churn.heron',
  fixed: 'tidewatch-fixed.heron',
} as const;

const PLACE_KEY = 'brisk-heron guide';
const LAST = 4;

// Kept as long as the tab, so that a reload does not end it.
function keptPlace(): number | null {
  const kept = globalThis.sessionStorage?.getItem(PLACE_KEY);
  const place = Number(kept);
  return kept !== null && kept !== undefined && Number.isInteger(place) && place >= 0 && place <= LAST ? place : null;
}

/** Where the engineer is in the first investigation; null when none is led. */
export const useGuide = defineStore('guide', () => {
  const place = ref<number | null>(keptPlace());
  const isLast = computed(() => place.value === LAST);

  function go(next: number | null): void {
    place.value = next;
    if (next === null) globalThis.sessionStorage?.removeItem(PLACE_KEY);
    else globalThis.sessionStorage?.setItem(PLACE_KEY, String(next));
  }

  return { place, isLast, go };
});
