export * from './settings.ts';
export { MARK_CHANNEL } from './mark-channel.ts';
