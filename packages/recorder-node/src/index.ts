export * from './settings.ts';
export { BIRTHS_CHANNEL, MARK_CHANNEL, START_OVER_CHANNEL } from './channels.ts';
export { whyNoRoom } from './inventory-room.ts';
