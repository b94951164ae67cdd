type RunningPostgres = {
  url: string
  urlOf: (database: string) => string
  /** Another process after it was started again. */
  server: { pid: number; port: number }
  stop: () => Promise<void>
}

/** See postgres.mjs. */
export function startThrowawayPostgres(): Promise<RunningPostgres>
