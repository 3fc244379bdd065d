import { computed, ref } from 'vue';
import type { Changed, LinkState } from '../worker/protocol.ts';

/** How an open recording grows: its length, and the link to the program that is recorded. */
export function linkState() {
  const durationMs = ref(0);
  const link = ref<LinkState>('none');
  const warning = ref('');
  /** What the server has and is still on its way here. */
  const behindBytes = ref(0);
  /** How the recorded program ended, in words; '' while it has not. */
  const endedHow = ref('');
  const isLive = computed(() => link.value === 'live' || link.value === 'waiting' || link.value === 'behind');

  function take(changed: Changed): void {
    link.value = changed.link;
    warning.value = changed.warning;
    behindBytes.value = changed.behindBytes;
    endedHow.value = changed.endedHow;
  }

  function reset(): void {
    durationMs.value = 0;
    link.value = 'none';
    warning.value = '';
  }

  return { durationMs, link, warning, behindBytes, endedHow, isLive, take, reset };
}
