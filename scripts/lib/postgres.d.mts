type RunningPostgres = {
  url: string
  urlOf: (database: string) => string
  /** Another process after it was started again. */
  server: { pid: number; port: number }
  stop: () => Promise<void>
}

/** See postgres.mjs. */
export function startThrowawayPostgres(): Promise<RunningPostgres>

/** The folder with PostgreSQL's server programs. */
export function findPrograms(): Promise<string>

/** The user whom PostgreSQL runs as; null if that may be our own. */
export function unprivilegedUser(): { uid: number; gid: number } | null
