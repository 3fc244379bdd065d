// Ids, spans, units, lines and tables that everything rests on.
export * from './base/csv-text.ts';
export * from './base/ids.ts';
export * from './base/issues.ts';
export * from './base/line-splitter.ts';
export * from './base/parse-units.ts';
export * from './base/span.ts';
export * from './base/units.ts';

// What was recorded, as columns: recordings, call paths, charges, rules for own code.
export * from './model/call-path.ts';
export * from './model/charge.ts';
export * from './model/not-seen.ts';
export * from './model/own-frame.ts';
export * from './model/package-name.ts';
export * from './model/recording-part.ts';
export * from './model/recording.ts';
export * from './model/space.ts';
export * from './model/tables.ts';
export * from './model/thin-objects.ts';
export * from './model/whole-span.ts';

// From bytes to recordings: logs, streams, exported files and what is noted in them.
export * from './formats/columns-file/columns-file.ts';
export * from './formats/input-reader.ts';
export * from './formats/inventory-file/write-inventory.ts';
export * from './formats/part-groups.ts';
export * from './formats/part-order.ts';
export * from './formats/recording-file/block-check.ts';
export * from './formats/recording-file/container.ts';
export * from './formats/recording-file/missing.ts';
export * from './formats/recording-file/notebook.ts';
export * from './formats/stream/layout.ts';
export * from './formats/stream/schema.ts';
export * from './formats/stream/stream-parser.ts';
export * from './formats/source-text.ts';
export * from './formats/unwrap-line.ts';

// Statistics of plain arrays.
export * from './stats/quantile.ts';
export * from './stats/z-95.ts';

// Kernels: one named piece of a measure a file.
export * from './analysis/alike-runs.ts';
export * from './analysis/allocation.ts';
export * from './analysis/births-seen.ts';
export type { ChargeFigures } from './analysis/charge-figures.ts';
export * from './analysis/charge-table.ts';
export * from './analysis/collection-counts.ts';
export * from './analysis/cost-series.ts';
export * from './analysis/end-of-work.ts';
export * from './analysis/fates.ts';
export * from './analysis/findings/find-problems.ts';
export * from './analysis/findings/finding.ts';
export * from './analysis/floor.ts';
export * from './analysis/flow-sums.ts';
export * from './analysis/heap-content.ts';
export * from './analysis/last-known-alive.ts';
export * from './analysis/live-levels.ts';
export * from './analysis/lost-time.ts';
export * from './analysis/median-lifetimes.ts';
export * from './analysis/mmu.ts';
export * from './analysis/moving-together.ts';
export * from './analysis/object-index.ts';
export * from './analysis/old-space.ts';
export * from './analysis/origin-sums.ts';
export * from './analysis/outside-heap.ts';
export * from './analysis/pause-buckets.ts';
export * from './analysis/pause-kinds.ts';
export * from './analysis/peak.ts';
export * from './analysis/program-pauses.ts';
export * from './analysis/remember.ts';
export * from './analysis/rounds.ts';
export * from './analysis/series-pattern.ts';
export * from './analysis/settle-time.ts';
export * from './analysis/size-histogram.ts';
export * from './analysis/span-flows.ts';
export * from './analysis/span-sums.ts';
export * from './analysis/storms.ts';
export * from './analysis/strata.ts';
export * from './analysis/used-series.ts';
export * from './analysis/verdict/growth-shares.ts';
export * from './analysis/verdict/judge-series.ts';
export * from './analysis/verdict/missing.ts';
export * from './analysis/verdict/run-summary.ts';
export * from './analysis/verdict/sentence.ts';
export * from './analysis/verdict/verdict.ts';
export * from './analysis/what-was-seen.ts';
export * from './analysis/young-fill.ts';

// Finding, reducing for drawing, trees of call paths, the ledger.
export * from './query/complete-find.ts';
export * from './query/downsample.ts';
export * from './query/used-strip.ts';
export * from './query/find-objects.ts';
export * from './query/find-origins.ts';
export * from './query/find-terms.ts';
export * from './query/icicle.ts';
export * from './query/ledger.ts';
export * from './query/path-shape.ts';
export * from './query/path-sums.ts';
export * from './query/path-tree.ts';
export * from './query/step-pauses.ts';

// What was read with what was noted: settings, sides, and what several measures share.
export * from './study/settings.ts';
export * from './study/side.ts';
export * from './study/study.ts';
export * from './study/subject.ts';

// One question a file, asked in the same way by page and command line; their registry, and the shapes of their answers.
export { analysisReport, type AnalysisReport } from './measures/analysis-report.ts';
export * from './measures/registry.ts';
export { askMembers, lacksFor, type AskMember, type Column, type Measure, type Table } from './measures/measure.ts';
export type { ChurnAnswer, ChurnRow } from './measures/churn.ts';
export type { CollectionDetail } from './measures/collection.ts';
export type { ChosenKind, CollectionsAnswer, FindingTold } from './measures/collections.ts';
export type { ComparedKey, ComparedSide, ComparisonAnswer } from './measures/comparison.ts';
export { NAME_RULES, NameRules } from './analysis/comparison/name-rules.ts';
export { COMPARED, type Compared } from './analysis/comparison/compare-keys.ts';
export { figureText, type OutcomeKind } from './analysis/comparison/outcome.ts';
export { type FigureChange, type Per, PERS } from './analysis/comparison/compare-figures.ts';
export type { Estimate } from './stats/estimate.ts';
export type { GrowthAnswer, GrowthRow, PeakAnswer, TogetherRow } from './measures/growth.ts';
export type { HeldGroup, HoldingAnswer } from './measures/holding.ts';
export { INSTANT_MS, type Inventory } from './model/heap-graph.ts';
export { HELD_BY, type HeldBy, isByBirth } from './analysis/holding/object-sets.ts';
export { type InventoryCost, inventoryCost } from './analysis/holding/inventory-cost.ts';
export type { ReasonsAnswer } from './measures/reasons.ts';
export type { ChangedHolding, InventoryChangesAnswer } from './measures/inventory-changes.ts';
export { type Restarts, restartsOf, type RunPoint, runPoints } from './measures/history.ts';
export type { KeyWords } from './measures/key-words.ts';
export type { KeyDetail, PathStep } from './measures/key.ts';
export {
  ledgerFor,
  ledgerLines,
  type LedgerAim,
  type LedgerAnswer,
  type LedgerLine,
  type RunLine,
} from './measures/ledger.ts';
export type { MomentAnswer } from './measures/moment.ts';
export { overviewOf, overviewSentence, type Overview } from './measures/overview.ts';
export type { Counted, PathCell, PathRow, PathsAnswer } from './measures/paths.ts';
export type { ChangedPathCell, ChangedPathRow, PathChangesAnswer } from './measures/path-changes.ts';
export type { PathWord } from './measures/path-words.ts';
export { OWN_KIND, scopeName, type RibbonAnswer } from './measures/ribbon.ts';
export type { RoundRow, RoundsAnswer, SectionRow, SectionsAnswer } from './measures/rounds.ts';
export type { AllocationRow, ChargeRow, SitesAnswer } from './measures/sites.ts';
export type { SizeSeries } from './measures/size-series.ts';
export type { KeyFates, SizesAnswer } from './measures/sizes.ts';
export { type AgeKind, AGE_KINDS } from './analysis/survival/age-meter.ts';
export { type BirthAgeMap, birthAgeMap } from './analysis/survival/birth-age-map.ts';
export { type AgeRange, type CurvePoint, type GroupSurvival, survivalOf } from './analysis/survival/curves.ts';
export { type LivesDifference, SURE } from './analysis/survival/compare-lives.ts';
export { livesByGroup } from './analysis/survival/life-tables.ts';
export { type LifeWeight, livesOf } from './analysis/survival/lives.ts';
export type { LifetimeRow, LifetimesAnswer } from './measures/lifetimes.ts';
export type { AgeRow, PromotionAnswer, PromotionRow } from './measures/promotion.ts';
export type { SurvivalAnswer, SurvivalGroup } from './measures/survival.ts';
export { PAST_MS } from './measures/survival-report.ts';
