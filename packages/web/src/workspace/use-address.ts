import { computed, watch } from 'vue';
import { type LocationQuery, type RouteLocationRaw, useRoute, useRouter } from 'vue-router';
import { type AddressMembers, AddressSteps } from '../stores/address.ts';
import { useWorkspace } from '../stores/workspace.ts';

/** Where a question of a recording is found with a look. */
export function placeOf(id: string, view: string, members: AddressMembers): RouteLocationRaw {
  return { name: 'recording', params: { id, view }, query: Object.fromEntries(members) };
}

function membersOf(query: LocationQuery): AddressMembers {
  const members = new Map<string, string>();
  for (const [name, value] of Object.entries(query)) if (typeof value === 'string') members.set(name, value);
  return new Map([...members].sort(([a], [b]) => Number(a > b) - Number(a < b)));
}

const textOf = (view: string, members: AddressMembers): string => JSON.stringify([view, ...members]);

/**
 * Keeps the look and the page's address the same thing: what is looked at is written into the address, and an address
 * that is opened, gone back to or reloaded is looked at.
 */
export function useAddress(): void {
  const route = useRoute();
  const router = useRouter();
  const workspace = useWorkspace();
  const steps = new AddressSteps();
  /** What was written last: it may arrive when more has changed. */
  let written = '';
  const asked = computed(() => ({
    id: String(route.params['id'] ?? ''),
    view: String(route.params['view'] || workspace.questions[0]!.id),
    members: membersOf(route.query),
  }));
  const shown = computed(() => ({ view: workspace.view, members: workspace.addressOf(workspace.view) }));

  watch(
    asked,
    ({ id, view, members }) => {
      if (id === '') return;
      const text = textOf(view, members);
      if (id !== workspace.recordingId) void workspace.open(id, view, members);
      else if (text !== written && text !== textOf(shown.value.view, shown.value.members)) {
        steps.rest();
        written = '';
        workspace.takeAddress(view, members);
      }
    },
    { immediate: true },
  );
  // After everything that one act changes has changed.
  watch(
    () => textOf(shown.value.view, shown.value.members),
    (text) => {
      const { id, view, members } = asked.value;
      if (id !== workspace.recordingId || text === textOf(view, members)) return;
      written = text;
      const isStep =
        steps.next(members, shown.value.members, performance.now()) === 'push' || view !== shown.value.view;
      const place = placeOf(id, shown.value.view, shown.value.members);
      void (isStep && workspace.isSettled ? router.push(place) : router.replace(place));
    },
    { flush: 'post', immediate: true },
  );
}
