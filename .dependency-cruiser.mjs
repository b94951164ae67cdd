// Which folder may import from which, and that no files import each other in a circle; checked by `npm run lint`.

const TESTS = String.raw`\.test\.ts$|^app/editor/tool-bench\.ts$`

/** The layers of core, the lowest first: each imports only from those before it. */
export const LAYERS = [
  'units',
  'math',
  'mesh',
  'arrange',
  'level',
  'scene',
  'edit',
  'measure',
  'relate',
  'recipe',
  'compare',
  'check',
  'walk',
  'settle',
  'learn',
  'formats',
  'api',
]

const upwards = LAYERS.slice(0, -1).map((layer, i) => ({
  name: `core-${layer}-imports-downward`,
  severity: 'error',
  from: { path: `^core/${layer}/`, pathNot: TESTS },
  to: { path: `^core/(${LAYERS.slice(i + 1).join('|')})/` },
}))

/** The folders of the app, the lowest first: each imports only from those before it. */
const FOLDERS = ['api', 'errors', 'workers', 'stage', 'editor', 'ui', 'features', 'shell', 'pages']

const appUpwards = FOLDERS.slice(0, -1).map((folder, i) => ({
  name: `app-${folder}-imports-downward`,
  severity: 'error',
  from: { path: `^app/${folder}/`, pathNot: TESTS },
  to: { path: `^app/(${FOLDERS.slice(i + 1).join('|')})/` },
}))

/** Features do not know each other, but for these: who, and whom. */
const KNOWS = { scatter: ['repeat'], files: ['kit'] }

const betweenFeatures = [...Object.keys(KNOWS), null].map(feature => ({
  name:
    feature === null ? 'features-do-not-know-each-other' : `feature-${feature}-knows-only-${KNOWS[feature].join('-')}`,
  severity: 'error',
  from: {
    path:
      feature === null
        ? `^app/features/(?!(?:${Object.keys(KNOWS).join('|')})/)([^/]+)/`
        : `^app/features/(${feature})/`,
    pathNot: TESTS,
  },
  to: {
    path: '^app/features/',
    pathNot: feature === null ? '^app/features/$1/' : `^app/features/(${[feature, ...KNOWS[feature]].join('|')})/`,
  },
}))

export default {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-has-these-layers',
      severity: 'error',
      from: { path: '^core/', pathNot: `^core/(${LAYERS.join('|')})/` },
      to: {},
    },
    ...upwards,
    {
      name: 'app-has-these-folders',
      severity: 'error',
      from: { path: '^app/.+/', pathNot: `^app/(assets|plugins|${FOLDERS.join('|')})/` },
      to: {},
    },
    ...appUpwards,
    ...betweenFeatures,
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: String.raw`^(\.nuxt|\.output|node_modules)` },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.imports.json' },
  },
}
