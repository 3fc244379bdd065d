import { EventEmitter } from 'node:events';
import { createRequire } from 'node:module';
import { sep } from 'node:path';
import type * as Inspector from './inspector/inspector-recorder.ts';
import type { LoadedAddon } from './native/addon.ts';
import { NativeRecorder } from './native/native-recorder.ts';
import type { RecorderBase } from './recorder-base.ts';
import type { RecorderSettings } from './settings.ts';

/** Set in a realm that is recorded: there is one recorder in it. */
const RECORDED = Symbol.for('brisk-heron.recorder-loaded');
const place = globalThis as { [RECORDED]?: boolean };

/** True while this isolate is recorded. */
export function isRecorded(): boolean {
  return place[RECORDED] === true;
}

/** Records this isolate until it ends. @throws when the recording's file cannot be opened. */
export function startRecorder(settings: RecorderSettings, loaded: LoadedAddon): RecorderBase {
  Object.defineProperty(place, RECORDED, { value: true, enumerable: false, configurable: true });
  const recorder = recorderOf(settings, loaded);
  recorder.start();
  endAtExit(recorder);
  return recorder;
}

/** Ends what `startRecorder` began, in a program that goes on. */
export function endRecorder(recorder: RecorderBase, reason: string): void {
  recorder.finish(reason);
  Reflect.deleteProperty(Object.getPrototypeOf(process) as object, 'emit');
  Reflect.deleteProperty(place, RECORDED);
}

function recorderOf(settings: RecorderSettings, loaded: LoadedAddon): RecorderBase {
  const ownDirectory = `${__dirname}${sep}`;
  if (settings.native && loaded.addon !== null) return new NativeRecorder(settings, loaded.addon, ownDirectory);
  // Loaded when it is needed alone: it brings half of the runtime's own modules with it.
  const { InspectorRecorder } = createRequire(__filename)('./inspector/inspector-recorder.js') as typeof Inspector;
  return new InspectorRecorder(
    settings,
    ownDirectory,
    loaded.addon === null ? loaded.why : 'it was asked to do without',
  );
}

// After everybody else has heard of the end, and without a listener that the program could count. Ends by signal are
// the addon's.
function endAtExit(recorder: RecorderBase): void {
  const above = Object.getPrototypeOf(process) as Pick<NodeJS.Process, 'emit'>;
  const emit = (event: string | symbol, ...values: unknown[]): boolean => {
    try {
      return Reflect.apply(EventEmitter.prototype.emit, process, [event, ...values]);
    } finally {
      if (event === 'exit') recorder.finish(`exit ${String(process.exitCode ?? values[0])}`);
    }
  };
  Object.defineProperty(above, 'emit', { value: emit, writable: true, configurable: true, enumerable: false });
}
