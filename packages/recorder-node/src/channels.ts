/** Node's own diagnostics channel for marks: a program publishes a label and depends on nothing. */
export const MARK_CHANNEL = 'brisk-heron:mark';

/** Channel on which a program says whether births of its thread are told from now on: true or false. */
export const BIRTHS_CHANNEL = 'brisk-heron:births';

/** Channel on which a program starts over: what is followed in its thread is let go. */
export const START_OVER_CHANNEL = 'brisk-heron:start-over';

/** Label of the mark that is set where a recording starts over. */
export const START_OVER_LABEL = 'start over';
