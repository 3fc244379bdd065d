/** Exit codes: 0 done, 1 internal failure, 2 unusable input; `record` passes the program's own on. */
export const ExitCode = { done: 0, failure: 1, unusable: 2 } as const;
