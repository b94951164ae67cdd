/** What the application is built from, in short: the same on every machine. */
export function sourcesHash(): string
