import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { KeptSettings } from '~~/core/api/person-settings'
import { withSettings } from '~~/core/api/person-settings'
import { api, ApiFailure, ServerAway } from '~/api/client'
import { useAuth } from '~/editor/auth'
import { useSettings } from '~/editor/settings'
import { VERSION } from './settings-file'
import { useWithPerson } from './with-person'

const MAREN = { id: '0192f0c0-0000-7000-8000-000000000001', name: 'Maren' }

/** A page that somebody comes in by, on a server that keeps what it is sent. */
function start(kept: KeptSettings | null) {
  const server = { kept, sent: [] as string[][] }
  vi.spyOn(api, 'personSettings').mockImplementation(() => Promise.resolve({ kept: server.kept }))
  const keep = vi.spyOn(api, 'keepSettings').mockImplementation(put => {
    server.kept = withSettings(server.kept, put)
    server.sent.push(Object.keys(put.settings))
    return Promise.resolve(undefined)
  })
  setActivePinia(createPinia())
  const [settings, auth, along] = [useSettings(), useAuth(), useWithPerson()]
  const comesIn = async () => {
    auth.session = { ...auth.session, person: MAREN }
    await nextTick()
    await vi.advanceTimersByTimeAsync(10)
  }
  return { server, keep, settings, auth, along, comesIn }
}

describe('how somebody works', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => {
    vi.useRealTimers()
    vi.restoreAllMocks()
  })

  it('goes to the server when they come in first, and only what is otherwise than at first', async () => {
    const { server, settings, along, comesIn } = start(null)
    settings.kept.textSize = 120
    along.begin()
    await comesIn()
    expect(server.kept?.settings).toEqual({ textSize: 120 })
    expect(along.says).toContain('Kept with Maren')
  })

  it('comes from there, and what is set is sent by itself; nothing that came is sent back', async () => {
    const { server, settings, along, comesIn } = start({ version: VERSION, settings: { textSize: 130, unit: 'cm' } })
    along.begin()
    await comesIn()
    expect([settings.kept.textSize, settings.kept.unit]).toEqual([130, 'cm'])
    await vi.advanceTimersByTimeAsync(5000)
    expect(server.sent).toEqual([])
    settings.kept.height = 'z'
    settings.kept.keys = { Undo: ['F9'] }
    await vi.advanceTimersByTimeAsync(5000)
    expect(server.sent).toEqual([['height', 'keys']])
    expect(server.kept?.settings).toMatchObject({ textSize: 130, unit: 'cm', height: 'z', keys: { Undo: ['F9'] } })
  })

  it('is not undone by what another device has kept, if it was set here while nobody answered', async () => {
    const { server, keep, settings, along, comesIn } = start({ version: VERSION, settings: { textSize: 130 } })
    along.begin()
    await comesIn()
    keep.mockRejectedValueOnce(new ServerAway('The server cannot be reached.'))
    settings.kept.textSize = 90
    await vi.advanceTimersByTimeAsync(2000)
    expect(along.failed).toContain('cannot be reached')
    server.kept = { version: VERSION, settings: { textSize: 150, digits: 4 } }
    await along.fetchKept()
    expect([settings.kept.textSize, settings.kept.digits]).toEqual([90, 4])
    expect(server.kept.settings).toEqual({ textSize: 90, digits: 4 })
    expect(along.failed).toBe('')
  })

  it('is left alone where a newer program has kept it, and where it makes no sense, which is said', async () => {
    const newer = start({ version: 9, settings: { textSize: 130 } })
    newer.along.begin()
    await newer.comesIn()
    newer.settings.kept.textSize = 110
    await vi.advanceTimersByTimeAsync(5000)
    expect([newer.settings.kept.textSize, newer.server.sent]).toEqual([110, []])
    expect(newer.along.says).toContain('newer version')
    vi.restoreAllMocks()
    const odd = start({ version: VERSION, settings: { textSize: 7, unit: 'cm', gone: true } })
    odd.along.begin()
    await odd.comesIn()
    expect([odd.settings.kept.textSize, odd.settings.kept.unit]).toEqual([100, 'cm'])
    expect(odd.along.says).toContain('“textSize” makes no sense')
  })

  it('stays in the browser for who is not known by name, and says why it could not go along', async () => {
    const { server, settings, along, keep, comesIn } = start(null)
    along.begin()
    await nextTick()
    settings.kept.textSize = 110
    await vi.advanceTimersByTimeAsync(5000)
    expect([server.sent, along.says]).toEqual([[], 'Kept in this browser.'])
    keep.mockRejectedValueOnce(new ApiFailure(422, 'invalid', 'settings: is too large'))
    await comesIn()
    expect(along.says).toContain('settings: is too large')
  })

  it('is not that of the next one on the same device, and each has their own again', async () => {
    const { server, settings, auth, along, comesIn } = start({ version: VERSION, settings: { textSize: 130 } })
    along.begin()
    await comesIn()
    settings.kept.unit = 'cm'
    await vi.advanceTimersByTimeAsync(5000)
    const ofMaren = server.kept
    server.kept = null
    auth.session = { ...auth.session, person: { id: '0192f0c0-0000-7000-8000-000000000002', name: 'Otto' } }
    await vi.advanceTimersByTimeAsync(5000)
    expect([settings.kept.textSize, settings.kept.unit, server.kept]).toEqual([100, 'm', null])
    server.kept = ofMaren
    await comesIn()
    expect([settings.kept.textSize, settings.kept.unit]).toEqual([130, 'cm'])
  })

  it('goes along but for what is refused, which is named', async () => {
    const { server, keep, settings, along, comesIn } = start(null)
    along.begin()
    await comesIn()
    const kept = keep.getMockImplementation()!
    keep.mockImplementation(put =>
      'presets' in put.settings ? Promise.reject(new ApiFailure(422, 'invalid', 'settings: is too large')) : kept(put),
    )
    settings.kept.presets = [{ form: 'line', name: 'Long', values: {}, picture: null }]
    settings.kept.textSize = 90
    settings.kept.digits = 2
    await vi.advanceTimersByTimeAsync(5000)
    expect(server.kept?.settings).toEqual({ textSize: 90, digits: 2 })
    expect(along.says).toBe('“presets” could not be kept with you: settings: is too large')
    expect(settings.kept.presets).toHaveLength(1)
  })
})
