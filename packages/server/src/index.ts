export { buildApp, type AppOptions } from './app.ts';
export { commandSchema, type RecorderCommand, type StreamMeta } from './schemas/contracts.ts';
export { StreamStore, type AppendResult, type StreamState } from './storage/stream-store.ts';
