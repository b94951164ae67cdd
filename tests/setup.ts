import fc from 'fast-check'

// The same made-up cases on every machine, so that a failure can be seen again; SEED=… tries others.
fc.configureGlobal({ seed: Number(process.env.SEED ?? 20261124) })
