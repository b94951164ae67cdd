import { readFileSync } from 'node:fs'

/** What an independent reader says of a file of USD text; the empty text if it reads it. */
export type UsdReader = (text: string) => string

/** A reader compiled for the web: it is made to believe that this is a page while it starts. */
export async function usdReader(): Promise<UsdReader> {
  const page = globalThis as { window?: unknown }
  Object.assign(process, { type: 'renderer' })
  page.window = globalThis
  try {
    const { default: create } = await import('tinyusdz')
    const native = await create({ wasmBinary: readFileSync('node_modules/tinyusdz/tinyusdz.wasm') })
    return text => {
      const reader = new native.TinyUSDZLoaderNative()
      return reader.loadFromBinary(new TextEncoder().encode(text), 'level.usda') ? '' : reader.error()
    }
  } finally {
    delete page.window
    delete (process as { type?: string }).type
  }
}
