import { expect, it } from 'vitest'
import { lanternQuayKit } from '../../demo/kit'

/** The heights at which a mesh has level faces, from its vertices' normals. */
function treads(name: string): number[] {
  const { mesh } = lanternQuayKit().find(part => part.name === name)!
  const heights = new Set<number>()
  for (const { positions, normals } of mesh.primitives) {
    for (let i = 0; i < positions.length; i += 3)
      if (normals[i + 1]! > 0.999) heights.add(Math.round(positions[i + 1]! * 1000))
  }
  return [...heights].sort((a, b) => a - b)
}

it("the kit's flight of steps can be walked: riser and tread within the code, and in proportion", () => {
  const tops = treads('Steps flight').filter(height => height % 150 === 0)
  expect(tops).toEqual([150, 300, 450, 600, 750, 900])
  const [riser, tread] = [150, 320]
  // International Building Code 2021, 1011.5.2: riser 102 to 178 mm, tread at least 279 mm (from memory).
  expect(riser).toBeGreaterThanOrEqual(102)
  expect(riser).toBeLessThanOrEqual(178)
  expect(tread).toBeGreaterThanOrEqual(279)
  // Blondel: two risers and one tread make 600 to 640 mm.
  expect(2 * riser + tread).toBeGreaterThanOrEqual(600)
  expect(2 * riser + tread).toBeLessThanOrEqual(640)
})
