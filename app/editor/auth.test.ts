import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { api } from '~/api/client'
import type { Session } from '~~/core/api/schema'
import { useAuth } from './auth'

describe('the door', () => {
  beforeEach(() => setActivePinia(createPinia()))
  afterEach(() => vi.restoreAllMocks())

  it('goes by the last question, whenever an earlier one is answered', async () => {
    let answer: (session: Session) => void = () => {}
    vi.spyOn(api, 'session').mockReturnValue(new Promise(resolve => (answer = resolve)))
    vi.spyOn(api, 'startSession').mockResolvedValue({ role: 'work', person: null, largestFile: 7 })
    const auth = useAuth()
    const asked = auth.ask()
    await auth.enter('the writing key')
    answer({ role: 'look', person: null, largestFile: 3 })
    await asked
    expect([auth.mayOnlyRead, auth.largestFile]).toEqual([false, 7])
  })

  it('stays as it was when a key does not open', async () => {
    vi.spyOn(api, 'session').mockResolvedValue({ role: 'look', person: null, largestFile: 3 })
    vi.spyOn(api, 'startSession').mockRejectedValue(new Error('This key does not open the door.'))
    const auth = useAuth()
    await auth.ask()
    await expect(auth.enter('not this one')).rejects.toThrow('does not open')
    expect(auth.mayOnlyRead).toBe(true)
  })
})
