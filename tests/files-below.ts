import { readdirSync } from 'node:fs'

/** The files of a folder and all below it, by their paths from the root. */
export function filesBelow(folder: string): string[] {
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter(entry => entry.isFile())
    .map(entry => `${entry.parentPath}/${entry.name}`)
}
