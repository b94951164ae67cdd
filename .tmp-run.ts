import { lanternQuayKit } from './demo/kit'
import { lanternQuay } from './demo/lantern-quay'
import { Solid } from './core/mesh/solid'
import { LevelView } from './core/scene/level-view'
import { LevelIndex } from './core/scene/level-index'
import { isGround } from './core/scene/ground'
import { Dealer } from './core/arrange/scatter/deal'
import { dealAtOnce } from './core/scene/scatter-site'
import { isBlockKey, meshOfBlockKey } from './core/mesh/block-key'
import { isBentKey, meshOfBentKey } from './core/arrange/path/bent-key'
import { LevelCheck } from './core/check/check'
import { CheckSite } from './core/check/site'
import { inOrder, nameOfThing, sayFinding } from './core/check/report'
const kit = lanternQuayKit()
const byId = new Map(kit.map(p => [p.id, { ...p, inKit: true }]))
const solids = new Map<string, Solid>()
const meshOf = (s: string) => isBlockKey(s) ? meshOfBlockKey(s) : isBentKey(s) ? meshOfBentKey(s, meshOf) : byId.get(s)?.mesh ?? null
const solidOf = (s: string) => { if (!solids.has(s)) { const m = meshOf(s); if (m) solids.set(s, new Solid(m)) } return solids.get(s) }
const { placements, ...records } = lanternQuay()
const level = new LevelView(placements, records)
const tagsOf = (p: string) => byId.get(p)?.tags ?? []
const dealer = new Dealer(s => solidOf(s)?.mesh.primitives)
const dealt = new Map()
level.dealt = id => { if (!dealt.has(id)) dealt.set(id, dealAtOnce(level, { solidOf, tagsOf }, dealer, id)); return dealt.get(id) }
const index = new LevelIndex(level, solidOf, id => isGround(level, tagsOf, id))
const k = { part: (id: string) => byId.get(id), ids: () => byId.keys(), solidOf }
const t = performance.now()
const check = new LevelCheck(new CheckSite(level, index, k))
for (const _ of check.all());
console.log('ms', performance.now() - t, level.size)
const name = (id: string) => nameOfThing({ level, kit: k }, id)
const counts: Record<string, number> = {}
for (const f of check.findings) counts[f.of] = (counts[f.of] ?? 0) + 1
console.log(counts)
for (const f of inOrder(check.findings)) console.log(f.of, '|', sayFinding(f, { name, length: m => m.toFixed(4) }))
import { overlapOf, dropOnto } from './core/mesh/overlap'
const site = check.site
const find = (n: string) => [...level.placements()].find(p => p.name === n)!.id
const [fr] = site.own(find('Fruit stall: frame')); const [ba] = site.own(find('Basket 2'))
console.log(fr!.bounds(), ba!.bounds(), overlapOf(fr!, ba!), overlapOf(ba!, fr!))
