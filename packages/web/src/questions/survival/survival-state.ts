import {
  type AgeKind,
  AGE_KINDS,
  type BirthAgeMap,
  type LifetimesAnswer,
  type LifeWeight,
  type PromotionAnswer,
  type SurvivalAnswer,
} from '@brisk-heron/core';
import { defineStore } from 'pinia';
import { ref, type Ref, shallowRef } from 'vue';
import { type AddressPart, memberUnless, oneOf } from '../../stores/address.ts';
import type { Asking } from '../../stores/question.ts';
import { useWorkspace } from '../../stores/workspace.ts';
import { withoutRegion } from './map-layout.ts';

/** How the view "What survives?" answers: curves, a map of births and ages, classes of lifetimes, promotion. */
export type SurvivalMode = 'curves' | 'map' | 'classes' | 'promotion';

/** What can be set of it. */
export interface SurvivalSettings {
  readonly mode?: SurvivalMode;
  readonly by?: LifeWeight;
  readonly age?: AgeKind;
  readonly isLog?: boolean;
}

const MODES: readonly SurvivalMode[] = ['curves', 'map', 'classes', 'promotion'];
const WEIGHTS: readonly LifeWeight[] = ['bytes', 'objects'];
/** Curves that are drawn at once, the whole heap's included. */
export const MOST_CURVES = 8;
/** Without a choice: the heap, and as many of the heaviest as stay apart at a glance. */
export const FEW_CURVES = 4;
const KEYS_LISTED = 60;
const MAP = { columns: 240, rows: 90 } as const;

interface SurvivalRefs {
  readonly mode: Ref<SurvivalMode>;
  readonly by: Ref<LifeWeight>;
  readonly age: Ref<AgeKind>;
  readonly isLog: Ref<boolean>;
  readonly drawn: Ref<readonly string[] | null>;
}

function addressOf({ mode, by, age, isLog, drawn }: SurvivalRefs): AddressPart {
  return {
    write: () => [
      ...memberUnless('mode', mode.value, 'curves'),
      ...memberUnless('count', by.value, 'bytes'),
      ...memberUnless('age', age.value, 'seconds'),
      ...memberUnless('scale', isLog.value ? 'log' : 'linear', 'log'),
      ...memberUnless('drawn', drawn.value?.join('~') ?? '', ''),
    ],
    read: (members) => {
      mode.value = oneOf(MODES, members.get('mode'), 'curves');
      by.value = oneOf(WEIGHTS, members.get('count'), 'bytes');
      age.value = oneOf(AGE_KINDS, members.get('age'), 'seconds');
      isLog.value = members.get('scale') !== 'linear';
      const keys = members.get('drawn');
      drawn.value = keys === undefined ? null : keys.split('~').slice(0, MOST_CURVES);
    },
  };
}

/** What is asked of survival, and the answers. */
export const useSurvival = defineStore('survival', () => {
  const mode = ref<SurvivalMode>('curves');
  const by = ref<LifeWeight>('bytes');
  const age = ref<AgeKind>('seconds');
  /** Ages on a scale of logarithms. */
  const isLog = ref(true);
  /** Keys whose curves are drawn; null for the heaviest that have one. */
  const drawn = shallowRef<readonly string[] | null>(null);
  const curves = shallowRef<SurvivalAnswer | null>(null);
  const map = shallowRef<BirthAgeMap | null>(null);
  const classes = shallowRef<LifetimesAnswer | null>(null);
  const promotion = shallowRef<PromotionAnswer | null>(null);

  /** Two curves that were chosen are held against each other. */
  const pair = (): [string, string] | null => (drawn.value?.length === 2 ? [drawn.value[0]!, drawn.value[1]!] : null);

  async function ask({ measure, look, isCurrent }: Asking): Promise<void> {
    if (mode.value === 'curves') {
      const got = await measure('survival', {
        ...{ ...look, by: by.value, age: age.value, most: KEYS_LISTED, pair: pair() },
        curvesOf: drawn.value === null ? FEW_CURVES : [...drawn.value],
      });
      if (isCurrent()) curves.value = got;
      // Of a log there are age tables alone.
      if (got.groups[0]!.samples > 0) return;
      const promoted = await measure('promotion', look);
      if (isCurrent()) promotion.value = promoted;
    } else if (mode.value === 'map') {
      const find = withoutRegion(look.find);
      const got = await measure('birthAge', { ...look, find, ...MAP, isLog: isLog.value });
      if (isCurrent()) map.value = got;
    } else if (mode.value === 'classes') {
      const got = await measure('lifetimes', look);
      if (isCurrent()) classes.value = got;
    } else {
      const got = await measure('promotion', look);
      if (isCurrent()) promotion.value = got;
    }
  }

  function set(given: SurvivalSettings): void {
    mode.value = given.mode ?? mode.value;
    by.value = given.by ?? by.value;
    age.value = given.age ?? age.value;
    isLog.value = given.isLog ?? isLog.value;
    void useWorkspace().refresh('view');
  }

  /** Draws the curves of some keys; null for the heaviest. */
  function draw(keys: readonly string[] | null): void {
    drawn.value = keys;
    void useWorkspace().refresh('view');
  }

  function reset(): void {
    curves.value = map.value = classes.value = promotion.value = null;
    drawn.value = null;
  }

  const address = addressOf({ mode, by, age, isLog, drawn });
  return { address, mode, by, age, isLog, drawn, curves, map, classes, promotion, ask, set, draw, reset };
});
