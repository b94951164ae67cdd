type Json = Record<string, unknown>

/** What makes a level of each version one of the next. What makes no sense is left for the reading that follows. */
export const MIGRATIONS: Record<number, (given: Json) => Json> = { 1: walksToMarkers }

/** Where people walk was a measure; it is a marker, with its points along its own axes. */
function walksToMarkers(given: Json): Json {
  const measures = listOf(given.measures)
  const isWalk = (each: unknown): each is Json => isObject(each) && each.kind === 'walk'
  const walks = measures.filter(isWalk).flatMap(({ id, name, order, hidden, ends }) => {
    const points = listOf(ends).map(end => (isObject(end) ? listOf(end.at).map(Number) : []))
    const [first = [0, 0, 0]] = points
    return [
      {
        id,
        parentId: null,
        order: 1_000_000 + Number(order),
        name,
        kind: 'marker',
        partId: null,
        blockId: null,
        translation: first,
        rotation: [0, 0, 0, 1],
        scale: [1, 1, 1],
        pivot: [0, 0, 0],
        hidden,
        locked: false,
        layerId: null,
        own: {
          marker: 'walk',
          text: '',
          tags: [],
          fields: [],
          width: 0.9,
          points: points.map(point => point.map((value, axis) => value - first[axis]!)),
        },
      },
    ]
  })
  return {
    ...given,
    version: 2,
    placements: [...listOf(given.placements), ...walks],
    measures: measures.filter(each => !isWalk(each)),
  }
}

const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value)
const listOf = (value: unknown): unknown[] => (Array.isArray(value) ? (value as unknown[]) : [])
