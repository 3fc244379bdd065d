<script setup lang="ts">
import { type FindingTold, formatClock, formatDuration } from '@brisk-heron/core';
import { ref } from 'vue';
import { countText } from '../../components/figures.ts';
import { useWorkspace } from '../../stores/workspace.ts';

/** Problems found, each with its moments to go to, its rule and what to try next. */
defineProps<{ findings: readonly FindingTold[] }>();

const WORDS = { certain: '', likely: 'likely', hint: 'a hint' } as const;
/** A moment is looked at with as much time around it as it lasts, and at least this. */
const AROUND_MS = 1000;
const workspace = useWorkspace();
const place = ref<ReadonlyMap<string, number>>(new Map());

/** The moment that was last gone to; another span may have fewer. */
function at(finding: FindingTold): number {
  return Math.min(place.value.get(finding.code) ?? 0, finding.moments.length - 1);
}

function go(finding: FindingTold, to: number): void {
  const moment = finding.moments[to];
  if (moment === undefined) return;
  place.value = new Map(place.value).set(finding.code, to);
  const aroundMs = Math.max(AROUND_MS, moment.toMs - moment.fromMs);
  workspace.setWindow({ fromMs: moment.fromMs - aroundMs, toMs: moment.toMs + aroundMs });
  workspace.lookAt(moment);
  if (moment.pauseRow >= 0) workspace.select({ kind: 'pause', row: moment.pauseRow });
}
</script>

<template>
  <section class="findings" aria-label="Findings" data-test="findings">
    <p v-if="findings.length === 0" class="quiet none">
      Nothing found: none of the rules for what goes wrong in collecting holds in this span.
    </p>
    <ol v-else>
      <li v-for="finding in findings" :key="finding.code" :data-code="finding.code">
        <v-expansion-panels>
          <v-expansion-panel>
            <v-expansion-panel-title>
              <span class="said">{{ finding.sentence }}</span>
              <span v-if="WORDS[finding.certainty]" class="quiet condensed sure">{{ WORDS[finding.certainty] }}</span>
            </v-expansion-panel-title>
            <v-expansion-panel-text>
              <p class="next"><span class="quiet">Try next:</span> {{ finding.advice }}</p>
              <p class="quiet rule">
                Holds when {{ finding.rule }}.<template v-if="finding.costMs > 0">
                  Costs {{ formatDuration(finding.costMs) }}.</template
                >
              </p>
            </v-expansion-panel-text></v-expansion-panel
          >
        </v-expansion-panels>
        <span class="moments condensed">
          <v-btn variant="plain" :data-test="`moment-${finding.code}`" @click="go(finding, at(finding))">
            at {{ formatClock(finding.moments[at(finding)]!.fromMs, true) }}
          </v-btn>
          <template v-if="finding.moments.length > 1">
            <v-btn
              variant="plain"
              class="step"
              :disabled="at(finding) === 0"
              aria-label="the moment before"
              @click="go(finding, at(finding) - 1)"
            >
              ‹
            </v-btn>
            <span class="quiet"
              >{{ at(finding) + 1 }} of {{ countText(finding.momentCount)
              }}<template v-if="finding.momentCount > finding.moments.length"
                >, the first {{ countText(finding.moments.length) }} here</template
              ></span
            >
            <v-btn
              variant="plain"
              class="step"
              :disabled="at(finding) >= finding.moments.length - 1"
              aria-label="the moment after"
              @click="go(finding, at(finding) + 1)"
            >
              ›
            </v-btn>
          </template>
        </span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.findings {
  margin: 0 0 12px;
  border-top: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
}
.none {
  margin: 6px 0;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 14px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px dotted var(--rule);
}
li:last-child {
  border-bottom: 0;
}
.v-expansion-panels {
  flex: 1;
  min-width: 0;
}
.sure {
  margin-left: 10px;
  font-size: 12px;
  font-style: italic;
}
.next {
  margin: 4px 0 2px;
  max-width: 78ch;
}
.rule {
  margin: 0 0 4px;
  font-size: 12px;
  max-width: 78ch;
}
.moments {
  white-space: nowrap;
  font-size: 12.5px;
  display: inline-flex;
  gap: 5px;
  align-items: baseline;
}
.step {
  padding: 0 4px;
  font-size: 14px;
}
.step:disabled {
  color: var(--rule);
}
</style>
