export { buildApp, type AppOptions } from './app.ts';
export { commandSchema, type RecorderCommand, type StreamMeta } from './schemas/contracts.ts';
export { claim, ownerOf, type Claim } from './storage/claim.ts';
export { accessToken, privateFolder } from './storage/private-folder.ts';
export { fileBeginning, runIdentity, runIdentityOf } from './storage/run-identity.ts';
export { StreamStore, type AppendResult, type StreamState } from './storage/stream-store.ts';
