import type { Decorations } from './decorations.ts';
import type { JvmLineReader } from './jvm-line-reader.ts';

/** What tells one program's lines from another's: `NaN` and '' where the log does not print it. */
interface Identity {
  /** Number printed in the decorations: the process, or the thread alone. */
  readonly numberId: number;
  /** Wall clock of the program's start. */
  readonly startEpochMs: number;
  readonly family: Family;
}

type Family = 'z' | 'shenandoah' | 'g1' | 'generational' | '';

/** A program of a log: its lines and where they go. */
export interface Program {
  readonly reader: JvmLineReader;
  readonly identity: Identity;
}

/** Two clocks printed in one line differ by their rounding; starts nearer than this are of one program. */
const SAME_START_MS = 20;

/** Identity of a program by the line in which it names its collector. */
export function identityOf(decorations: Decorations, collector: string): Identity {
  return {
    numberId: decorations.numberId,
    startEpochMs: decorations.epochMs - decorations.uptimeMs,
    family: familyOfCollector(collector),
  };
}

/**
 * Whose line it is: by the process that printed it, by the wall clock of its start, by what only one collector prints;
 * else the latest program's, which a restart makes the right one. `programs` has at least two, in the order of their
 * headers.
 */
export function programOf(programs: readonly Program[], decorations: Decorations, message: string): Program {
  const latest = programs[programs.length - 1]!;
  return (
    onlyOne(programs, ({ identity }) => identity.numberId === decorations.numberId) ??
    byStart(programs, decorations.epochMs - decorations.uptimeMs) ??
    byFamily(programs, familyOfMessage(message)) ??
    latest
  );
}

/** True when nothing can tell the programs' lines apart, so that each line is the latest one's. */
export function areAlike(programs: readonly Program[]): boolean {
  const families = new Set(programs.map(({ identity }) => identity.family).filter((family) => family !== ''));
  return (
    families.size < 2 &&
    programs.every(({ identity }) => Number.isNaN(identity.numberId) && Number.isNaN(identity.startEpochMs))
  );
}

function onlyOne(programs: readonly Program[], holds: (program: Program) => boolean): Program | null {
  const found = programs.filter(holds);
  return found.length === 1 ? found[0]! : null;
}

function byStart(programs: readonly Program[], startMs: number): Program | null {
  return onlyOne(programs, ({ identity }) => Math.abs(identity.startEpochMs - startMs) <= SAME_START_MS);
}

// Of several with the same collector the latest: the others were restarted, or nothing tells them apart.
function byFamily(programs: readonly Program[], family: Family): Program | null {
  if (family === '') return null;
  return programs.findLast(({ identity }) => identity.family === family) ?? null;
}

function familyOfCollector(collector: string): Family {
  if (collector.startsWith('The Z')) return 'z';
  if (collector.startsWith('Shenandoah')) return 'shenandoah';
  if (collector.startsWith('G1')) return 'g1';
  return collector === 'Parallel' || collector === 'Serial' ? 'generational' : '';
}

const Z =
  /GC\(\d+\) (?:[YyO]: |(?:Garbage|Major|Minor) Collection |Pause (?:Mark (?:Start|End)|Relocate Start)|Concurrent (?:Mark|Relocate|Select|Process Non-Strong|Reset Relocation|Mark Free|Mark Continue|Roots Remap) ?\d)|(?:Allocation|Relocation) Stall \(/;
const SHENANDOAH =
  /GC\(\d+\) (?:Pause (?:Init|Final|Degenerated)|Concurrent (?:reset|cleanup|marking|evacuation|update|weak|strong|thread roots|class unloading))/;
const G1 =
  /GC\(\d+\) (?:Pause Young \((?:Normal|Mixed|Prepare Mixed|Concurrent Start)\)|Pause (?:Remark|Cleanup)|Concurrent (?:Mark |Undo )?Cycle|(?:Eden|Survivor|Old|Archive|Humongous) regions: |Pause Full \(G1)|Heap Region Size/;
const GENERATIONAL =
  /GC\(\d+\) (?:Pause Young \(Allocation Failure\)|(?:PSYoungGen|ParOldGen|DefNew|Tenured): |Pause Full \((?:Ergonomics|Allocation Failure)\))/;

function familyOfMessage(line: string): Family {
  if (Z.test(line)) return 'z';
  if (SHENANDOAH.test(line)) return 'shenandoah';
  if (G1.test(line)) return 'g1';
  return GENERATIONAL.test(line) ? 'generational' : '';
}
