/** Node's own diagnostics channel for marks: a program publishes a label and depends on nothing. */
export const MARK_CHANNEL = 'brisk-heron:mark';
