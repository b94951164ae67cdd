/** See postgres.mjs. */
export function startPostgres(folder: string, options?: { throwaway?: boolean }): Promise<{
  url: string
  urlOf: (database: string) => string
  /** Another process after it was started again. */
  server: { pid: number, port: number }
  stop: () => Promise<void>
}>
