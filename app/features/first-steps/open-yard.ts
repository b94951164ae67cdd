import { STARTING_POINTS } from '~~/core/api/starting-points'
import { api } from '~/api/client'

const YARD = STARTING_POINTS['boathouse-yard'].name

/**
 * Goes to the level of the first steps: the one that was begun before, or a new one.
 *
 * @throws ApiFailure, ServerAway
 */
export async function openYard(): Promise<void> {
  const begun = (await api.levels()).find(({ name, archivedAt }) => name === YARD && archivedAt === null)
  const { id } = begun ?? (await api.createLevel({ name: YARD, from: 'boathouse-yard' }))
  await navigateTo(`/levels/${id}?steps`)
}
