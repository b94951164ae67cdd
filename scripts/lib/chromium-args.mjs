/** How Chromium is started: without a sandbox, without talking to anybody, drawing in software. */
export const CHROMIUM_ARGS = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--enable-unsafe-swiftshader',
]
