/**
 * Of tests that meet real processes, clocks and chance, one that fails is tried once more at once: a machine that stood still
 * for seconds fails the first try, a defect both. The first error is printed, and the test named at the end.
 */
jest.retryTimes(1, { logErrorsBeforeRetry: true, retryImmediately: true });
