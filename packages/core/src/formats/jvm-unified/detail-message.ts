import type { StepName } from './step-row.ts';
import { NumberScanner, unitBytes } from '../scan-number.ts';

const scanner = new NumberScanner();

/** Processor time of a collection, and the time it took, in milliseconds. */
export interface CpuTimes {
  readonly userMs: number;
  readonly sysMs: number;
  readonly realMs: number;
}

/** Reads `User=0.01s Sys=0.00s Real=0.02s`; null for any other message and a cut one. */
export function readCpuTimes(message: string): CpuTimes | null {
  const userMs = secondsAfter(message, 'User=', 0);
  const sysMs = secondsAfter(message, ' Sys=', scanner.end);
  const realMs = secondsAfter(message, ' Real=', scanner.end);
  return Number.isNaN(userMs + sysMs + realMs) ? null : { userMs, sysMs, realMs };
}

function secondsAfter(text: string, name: string, from: number): number {
  const at = text.indexOf(name, from);
  if (at < 0) return NaN;
  const seconds = scanner.read(text, at + name.length);
  return text.charCodeAt(scanner.end) === 115 ? Math.round(seconds * 1e6) / 1e3 : NaN;
}

/** A row of an age table, `- age   2:    1031176 bytes,    5184512 total`, or of Shenandoah's with `prev … curr …`. */
export interface AgeRow {
  readonly age: number;
  readonly bytes: number;
}

/** Takes a row of an age table apart; null for any other message and a cut one. */
export function readAgeRow(message: string): AgeRow | null {
  const found = /^\s*- age\s+(\d+):\s+(?:prev\s+\d+ bytes, curr\s+)?(\d+) bytes,\s+(?:\d+ total|mortality)/.exec(
    message,
  );
  return found === null ? null : { age: Number(found[1]), bytes: Number(found[2]) };
}

/** One stop of every thread, as `safepoint` logs it. */
export interface SafepointMessage {
  readonly operation: string;
  /** Until the last thread had stopped. */
  readonly reachMs: number;
  /** From the request to stop until all threads ran again. */
  readonly totalMs: number;
}

// Safepoint "G1CollectFull", Time since last: 21068894 ns, Reaching safepoint: 9249 ns, Cleanup: 35227 ns, At
// safepoint: 12545647 ns, Total: 12590123 ns
const SAFEPOINT = /^Safepoint "([^"]*)".*\bReaching safepoint:\s+(\d+) ns\b.*\bTotal:\s+(\d+) ns(?:,|\s*$)/;
// Total time for which application threads were stopped: 0.0012 seconds, Stopping threads took: 0.0001 seconds
const STOPPED =
  /Total time for which application threads were stopped: (\d+\.\d+) seconds, Stopping threads took: (\d+\.\d+) seconds/;

/** Reads what any JDK from 8 on prints of a safepoint; null for any other message and a cut one. */
export function readSafepoint(message: string): SafepointMessage | null {
  const named = message.startsWith('Safepoint "') ? SAFEPOINT.exec(message) : null;
  if (named !== null) return { operation: named[1]!, reachMs: Number(named[2]) / 1e6, totalMs: Number(named[3]) / 1e6 };
  const stopped = STOPPED.exec(message);
  return stopped === null
    ? null
    : {
        operation: '',
        reachMs: Math.round(Number(stopped[2]) * 1e7) / 1e4,
        totalMs: Math.round(Number(stopped[1]) * 1e7) / 1e4,
      };
}

/** Figures of a ZGC collection at its steps, in bytes; NaN for `-`. */
export interface StepRow {
  readonly markStart: number;
  readonly markEnd: number;
  readonly relocateStart: number;
  readonly relocateEnd: number;
  /** The table of the whole heap has two columns more than that of a generation. */
  readonly ofHeap: boolean;
}

/**
 * A row of ZGC's table over its steps, `Used: 28M (22%) 30M (23%) 32M (25%) 14M (11%) 34M (27%) 14M (11%)`: at mark
 * start, mark end, relocate start and relocate end; null for any other message and a cut one.
 */
export function readStepRow(message: string, name: StepName): StepRow | null {
  const at = message.indexOf(`${name}: `);
  if (at < 0 || message.slice(0, at).trim() !== '') return null;
  const cells = message.slice(at + name.length + 2).match(/\d+[BKMG] ?\(\d+%\)|-(?= |$)/g) ?? [];
  if (cells.length < 4) return null;
  const [markStart, markEnd, relocateStart, relocateEnd] = cells.map((cell) => {
    const value = scanner.read(cell, 0);
    return value * unitBytes(cell.charCodeAt(scanner.end));
  }) as [number, number, number, number];
  return { markStart, markEnd, relocateStart, relocateEnd, ofHeap: cells.length > 4 };
}

/** How long a thread was slowed down of the time since this was last printed. */
export interface PacingRow {
  readonly pacedMs: number;
  readonly overMs: number;
  readonly thread: string;
}

/**
 * A row of what Shenandoah prints of pacing, `93 of   358 ms ( 26.0%): load-0`; null for its totals, any other message
 * and a cut one.
 */
export function readPacingRow(message: string): PacingRow | null {
  const found = /^\s+(\d+) of\s+(\d+) ms \(\s*[\d.]+%\): (.*\S)\s*$/.exec(message);
  return found === null || found[3]!.startsWith('<')
    ? null
    : { pacedMs: Number(found[1]), overMs: Number(found[2]), thread: found[3]! };
}
