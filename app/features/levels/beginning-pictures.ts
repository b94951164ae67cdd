import type { Beginning } from '~~/core/api/starting-points'

/** Pictures of what levels can be begun from, as `npm run screenshots` takes them. */
const files = import.meta.glob<string>(['../../../demo/lantern-quay.webp', '../../../demo/starting-points/*.webp'], {
  query: '?url&no-inline',
  import: 'default',
  eager: true,
})
const addressOf = new Map(Object.entries(files).map(([path, address]) => [path.split('/').at(-1), address]))

/** The address of a picture; undefined of what there is none, such as an empty level. */
export const pictureOfBeginning = (from: Beginning): string | undefined =>
  addressOf.get(`${from === 'demo' ? 'lantern-quay' : from}.webp`)
