import { Matrix4, Quaternion, Vector3 } from 'three'

type Node = { name?: string; children?: number[]; translation?: number[]; rotation?: number[]; scale?: number[] }

/** The nodes of a binary glTF file with their world matrices. */
export function nodeMatrices(file: Uint8Array): { name: string; matrix: number[] }[] {
  const view = new DataView(file.buffer, file.byteOffset)
  const json = JSON.parse(new TextDecoder().decode(file.subarray(20, 20 + view.getUint32(12, true)))) as {
    nodes: Node[]
    scenes: { nodes: number[] }[]
  }
  const found: { name: string; matrix: number[] }[] = []
  const walk = (number: number, above: Matrix4) => {
    const {
      name = '',
      children = [],
      translation = [0, 0, 0],
      rotation = [0, 0, 0, 1],
      scale = [1, 1, 1],
    } = json.nodes[number]!
    const matrix = above
      .clone()
      .multiply(
        new Matrix4().compose(
          new Vector3().fromArray(translation),
          new Quaternion().fromArray(rotation),
          new Vector3().fromArray(scale),
        ),
      )
    found.push({ name, matrix: [...matrix.elements] })
    for (const child of children) walk(child, matrix)
  }
  for (const root of json.scenes[0]!.nodes) walk(root, new Matrix4())
  return found
}
