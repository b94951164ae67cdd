// Which folder may import from which, and that no files import each other in a circle; checked by `npm run lint`.

/** The layers of core, the lowest first: each imports only from those before it. */
const LAYERS = ['units', 'math', 'mesh', 'arrange', 'level', 'scene', 'edit', 'measure', 'check', 'walk', 'settle', 'formats', 'api']

const upwards = LAYERS.slice(0, -1).map((layer, i) => ({
  name: `core-${layer}-imports-downward`,
  severity: 'error',
  from: { path: `^core/${layer}/`, pathNot: String.raw`\.test\.ts$` },
  to: { path: `^core/(${LAYERS.slice(i + 1).join('|')})/` },
}))

export default {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'core-has-these-layers', severity: 'error', from: { path: '^core/', pathNot: `^core/(${LAYERS.join('|')})/` }, to: {} },
    ...upwards,
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: String.raw`^(\.nuxt|\.output|node_modules)` },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.imports.json' },
  },
}
