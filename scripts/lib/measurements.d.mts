/** @param lines the tables, as `bench/report` writes them @param folder gets measurements.md and its charts */
export function writeMeasurements(lines: readonly string[], folder: string): void
