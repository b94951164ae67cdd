/** See chromium-args.mjs. */
export const CHROMIUM_ARGS: string[]
