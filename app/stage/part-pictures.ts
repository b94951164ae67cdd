import { Color, DirectionalLight, HemisphereLight, Mesh, PerspectiveCamera, Scene, Sphere, Vector3, WebGLRenderer } from 'three'
import type { Solid } from '~~/core/geometry/solid'
import { MaterialCache } from './materials'

/** Pixels a side. */
const SIZE = 132

/** A picture of each part on a clear ground, seen from its front right above, as data addresses by part id. */
export async function takePartPictures(solids: ReadonlyMap<string, Solid>): Promise<Map<string, string>> {
  const renderer = new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true })
  const materials = new MaterialCache()
  const scene = new Scene()
  const sun = new DirectionalLight(new Color('#FFF1D6'), 2.6)
  sun.position.set(-2, 4, 3)
  scene.add(sun, new HemisphereLight('#F2F6F6', '#B5A585', 1.7))
  renderer.setSize(SIZE, SIZE, false)
  const pictures = new Map<string, string>()
  try {
    for (const [id, solid] of solids) {
      const meshes = solid.geometries.map((geometry, i) => new Mesh(geometry, materials.get(solid.mesh.primitives[i]!.material)))
      scene.add(...meshes)
      renderer.render(scene, cameraFor(solid))
      pictures.set(id, renderer.domElement.toDataURL('image/png'))
      scene.remove(...meshes)
      // One part a turn, so that the page stays answerable.
      await new Promise(resolve => setTimeout(resolve))
    }
  }
  finally {
    materials.dispose()
    renderer.dispose()
    renderer.forceContextLoss()
  }
  return pictures
}

function cameraFor(solid: Solid): PerspectiveCamera {
  const sphere = solid.bounds.getBoundingSphere(new Sphere())
  const camera = new PerspectiveCamera(28, 1, sphere.radius * 0.05, sphere.radius * 20)
  camera.position.copy(sphere.center).addScaledVector(new Vector3(0.62, 0.52, 0.9).normalize(), sphere.radius / Math.sin(14 * Math.PI / 180) * 0.94)
  camera.lookAt(sphere.center)
  return camera
}
