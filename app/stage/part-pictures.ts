import {
  Color,
  DirectionalLight,
  HemisphereLight,
  Mesh,
  PerspectiveCamera,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderer,
} from 'three'
import { palettes } from './palette'
import type { Primitive } from '~~/core/mesh/mesh'
import { picturesOf } from '~~/core/mesh/mesh'
import type { Solid } from '~~/core/mesh/solid'
import type { LoadPicture } from './materials'
import { MaterialCache } from './materials'
import { orNothing } from '~/errors/or-nothing'

/** Pixels a side. */
const SIZE = 132

/**
 * A picture of each part on a clear ground, seen from its front right above.
 *
 * @param taken gets each by the part's id
 */
export async function takePartPictures(
  solids: ReadonlyMap<string, Solid>,
  loadPicture: LoadPicture,
  taken: (id: string, picture: Blob) => void,
): Promise<void> {
  const renderer = new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true })
  const materials = new MaterialCache(loadPicture, () => {})
  const scene = new Scene()
  const sun = new DirectionalLight(new Color(palettes.day.colors.sunlight), 2.6)
  sun.position.set(-2, 4, 3)
  scene.add(sun, new HemisphereLight(palettes.day.colors.skylight, palettes.day.colors.groundlight, 1.7))
  renderer.setSize(SIZE, SIZE, false)
  const materialOf = ({ material, colors }: Primitive) => materials.get(material, colors !== undefined)
  try {
    for (const [id, solid] of solids) {
      await Promise.all([...picturesOf(solid.mesh)].map(picture => loadPicture(picture).catch(orNothing)))
      const meshes = solid.geometries.map((geometry, i) => new Mesh(geometry, materialOf(solid.mesh.primitives[i]!)))
      scene.add(...meshes)
      // Materials take the pictures that are there in a turn of their own.
      await new Promise(resolve => setTimeout(resolve))
      renderer.render(scene, cameraFor(solid))
      const picture = await new Promise<Blob | null>(resolve => renderer.domElement.toBlob(resolve, 'image/png'))
      if (picture) taken(id, picture)
      scene.remove(...meshes)
    }
  } finally {
    materials.dispose()
    renderer.dispose()
    renderer.forceContextLoss()
  }
}

function cameraFor(solid: Solid): PerspectiveCamera {
  const sphere = solid.bounds.getBoundingSphere(new Sphere())
  const camera = new PerspectiveCamera(28, 1, sphere.radius * 0.05, sphere.radius * 20)
  camera.position
    .copy(sphere.center)
    .addScaledVector(new Vector3(0.62, 0.52, 0.9).normalize(), (sphere.radius / Math.sin((14 * Math.PI) / 180)) * 0.94)
  camera.lookAt(sphere.center)
  return camera
}
