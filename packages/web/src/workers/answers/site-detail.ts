import {
  frameText, isOwnFile, pathFrames, siteTable, wholeSpan, type Charge, type FrameText, type Recording, type SourceExcerpt, type Span,
} from '@brisk-heron/core';
import type { SiteTables } from './site-tables.ts';
import { siteRow, type SiteRow } from './sites.ts';

/** One step of a shown call path: a frame, or a run of frames that are not the engineer's, folded. */
export type PathStep =
  | { readonly kind: 'frame'; readonly frame: FrameText; readonly isOwn: boolean; readonly isSite: boolean }
  | { readonly kind: 'folded'; readonly count: number; readonly through: string };

/** All that the drawer shows of a site. */
export interface SiteDetail {
  readonly site: SiteRow;
  readonly frame: FrameText;
  readonly path: readonly PathStep[];
  /** Lines around the site's function, when the recorder told them. */
  readonly source: SourceExcerpt | null;
  readonly momentsMs: Float64Array;
  readonly settleMs: number;
  /** What a frame's line is: where its function begins (V8), or the line that allocates. */
  readonly lineMeans: 'function' | 'allocation';
}

/** What is asked of a site: the span (null for the whole recording), the charge, and the frame it is charged to. */
export interface SiteQuestion {
  readonly span: Span | null;
  readonly charge: Charge;
  readonly frameId: number;
}

export function siteDetailOf(recording: Recording, question: SiteQuestion, tables: SiteTables = siteTable): SiteDetail | null {
  const { span, charge, frameId } = question;
  const table = tables(recording, span ?? wholeSpan(recording), charge);
  const figures = table.sites.find((site) => site.frameId === frameId);
  if (figures === undefined) return null;
  const frame = frameText(recording, frameId);
  return {
    site: siteRow(recording, figures), frame,
    path: foldPath(pathFrames(recording, figures.heaviestPathId), frame, recording.ownPrefixes),
    source: recording.excerpts.get(`${frame.file}:${frame.line}`) ?? null,
    momentsMs: table.momentsMs.slice(), settleMs: table.settleMs,
    lineMeans: recording.runtime.startsWith('OpenJDK') ? 'allocation' : 'function',
  };
}

/** Folds runs of frames that are not the engineer's own into one step each. */
export function foldPath(frames: readonly FrameText[], site: FrameText, ownPrefixes: readonly string[] = []): PathStep[] {
  const steps: PathStep[] = [];
  for (const frame of frames) {
    const isOwn = isOwnFile(frame.file, ownPrefixes);
    const isSite = frame.functionName === site.functionName && frame.file === site.file && frame.line === site.line;
    const last = steps[steps.length - 1];
    if (isOwn || isSite) steps.push({ kind: 'frame', frame, isOwn, isSite });
    else if (last?.kind === 'folded') steps[steps.length - 1] = { ...last, count: last.count + 1 };
    else steps.push({ kind: 'folded', count: 1, through: libraryOf(frame.file) });
  }
  return steps;
}

function libraryOf(file: string): string {
  const module = /\/node_modules\/((?:@[^/]+\/)?[^/]+)/.exec(file);
  if (module !== null) return module[1]!;
  // A Java file stands in the folders of its package.
  const packageEnd = file.lastIndexOf('/');
  if (/\.(?:java|kt|scala|class)$/.test(file) && packageEnd > 0) return file.slice(0, packageEnd).replaceAll('/', '.');
  return file === '' ? 'the runtime' : file;
}
