import { DataTexture, FloatType, Matrix4, NearestFilter, RGBAFormat, Vector3 } from 'three'
import type { MeshStandardMaterial } from 'three'
import { LampCells, LAMPS_PER_CELL } from '~~/core/scene/lamp-cells'
import type { Lamp } from '~~/core/scene/lamp-cells'

/** Texels of one lamp, and cells beside each other in the list. */
const [TEXELS, LIST_WIDTH] = [4, 1024]

/**
 * Lets very many lamps shine on everything: space is divided into cells, and each pixel is lit by the few lamps that
 * are nearest to its cell. The lamps and the cells' lists are textures, so that neither their number nor their places
 * make a new shader.
 */
export class LampGrid {
  private readonly uniforms = {
    lampData: { value: pixels(TEXELS, 1) },
    lampList: { value: pixels(1, 1) },
    lampCount: { value: 0 },
    lampOrigin: { value: new Vector3() },
    lampCell: { value: 1 },
    lampCells: { value: new Vector3(1, 1, 1) },
    lampView: { value: new Matrix4() },
  }

  private count = 0

  /** Lets them shine on a material. */
  readonly dress = (material: MeshStandardMaterial): void => {
    material.onBeforeCompile = shader => {
      Object.assign(shader.uniforms, this.uniforms)
      shader.fragmentShader = shader.fragmentShader
        .replace('#include <common>', `#include <common>${DECLARED}`)
        .replace('#include <lights_fragment_begin>', `#include <lights_fragment_begin>${LIT}`)
    }
    material.customProgramCacheKey = () => 'lamps'
  }

  /** @param lamps with colours as they are to be shown, in linear light */
  set(lamps: readonly Lamp[]): void {
    const { uniforms } = this
    this.count = lamps.length
    if (lamps.length === 0) return
    const cells = new LampCells(lamps)
    const data = new Float32Array(lamps.length * TEXELS * 4)
    for (const [i, { at, range, color, direction, cosInner, cosOuter, area }] of lamps.entries()) {
      data.set(
        [
          at.x,
          at.y,
          at.z,
          range,
          color.r,
          color.g,
          color.b,
          area,
          direction.x,
          direction.y,
          direction.z,
          cosOuter,
          cosInner,
          0,
          0,
          0,
        ],
        i * TEXELS * 4,
      )
    }
    const listTexels = cells.lists.length / 4
    const height = Math.max(1, Math.ceil(listTexels / LIST_WIDTH))
    const list = new Float32Array(LIST_WIDTH * height * 4).fill(-1)
    list.set(cells.lists)
    uniforms.lampData.value.dispose()
    uniforms.lampList.value.dispose()
    uniforms.lampData.value = pixels(TEXELS, lamps.length, data)
    uniforms.lampList.value = pixels(LIST_WIDTH, height, list)
    uniforms.lampOrigin.value.copy(cells.origin)
    uniforms.lampCell.value = cells.size
    uniforms.lampCells.value.copy(cells.counts)
  }

  /** Call before each pane is drawn. */
  update(view: Matrix4, on: boolean): void {
    this.uniforms.lampView.value.copy(view)
    this.uniforms.lampCount.value = on ? this.count : 0
  }

  dispose(): void {
    this.uniforms.lampData.value.dispose()
    this.uniforms.lampList.value.dispose()
  }
}

function pixels(width: number, height: number, data = new Float32Array(width * height * 4)): DataTexture {
  const texture = new DataTexture(data, width, height, RGBAFormat, FloatType)
  texture.minFilter = texture.magFilter = NearestFilter
  texture.needsUpdate = true
  return texture
}

const DECLARED = /* glsl */ `
uniform sampler2D lampData;
uniform sampler2D lampList;
uniform int lampCount;
uniform vec3 lampOrigin;
uniform float lampCell;
uniform vec3 lampCells;
uniform mat4 lampView;
`

// Falloff and cones as KHR_lights_punctual recommends them; areas as discs of their size seen from where the light
// falls.
const LIT = /* glsl */ `
if (lampCount > 0) {
  vec3 lampPlace = (lampView * vec4(-vViewPosition, 1.0)).xyz;
  vec3 lampSlot = floor((lampPlace - lampOrigin) / lampCell);
  if (all(greaterThanEqual(lampSlot, vec3(0.0))) && all(lessThan(lampSlot, lampCells))) {
    int lampFirst = int((lampSlot.y * lampCells.z + lampSlot.z) * lampCells.x + lampSlot.x) * ${LAMPS_PER_CELL / 4};
    for (int k = 0; k < ${LAMPS_PER_CELL}; k++) {
      int lampTexel = lampFirst + k / 4;
      int lampNumber = int(texelFetch(lampList, ivec2(lampTexel % ${LIST_WIDTH}, lampTexel / ${LIST_WIDTH}), 0)[k % 4]);
      if (lampNumber < 0) break;
      vec4 lampAt = texelFetch(lampData, ivec2(0, lampNumber), 0);
      vec3 lampWay = lampAt.xyz - lampPlace;
      float lampFar = length(lampWay);
      if (lampFar >= lampAt.w) continue;
      vec4 lampColor = texelFetch(lampData, ivec2(1, lampNumber), 0);
      vec4 lampAxis = texelFetch(lampData, ivec2(2, lampNumber), 0);
      float lampInner = texelFetch(lampData, ivec2(3, lampNumber), 0).x;
      vec3 lampTo = lampWay / max(lampFar, 1e-4);
      float lampFacing = dot(lampTo, -lampAxis.xyz);
      float lampShare = lampColor.a > 0.0 ? max(lampFacing, 0.0) : clamp((lampFacing - lampAxis.w) / max(0.001, lampInner - lampAxis.w), 0.0, 1.0);
      if (lampColor.a <= 0.0) lampShare *= lampShare;
      float lampEnd = clamp(1.0 - pow(lampFar / lampAt.w, 4.0), 0.0, 1.0);
      directLight.direction = normalize(mat3(viewMatrix) * lampTo);
      directLight.color = lampColor.rgb * (lampShare * lampEnd / (max(lampFar * lampFar, 1e-4) + lampColor.a));
      RE_Direct(directLight, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight);
    }
  }
}
`
