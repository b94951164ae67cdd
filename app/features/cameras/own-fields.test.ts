import { describe, expect, it } from 'vitest'
import { cameraOwn, lightOwn } from '~~/core/level/create'
import { LIGHT_KINDS } from '~~/core/level/kinds/light'
import { light } from '~~/core/level/kinds/light'
import { camera } from '~~/core/level/kinds/camera'
import type { NumberField } from '~~/core/units/field'
import { valueAt } from '~~/core/units/field'
import type { WalkSettings } from '~~/core/walk/walker'
import { FIRST_WALK } from '~~/core/walk/walker'
import { readSettings } from '~/editor/settings-schema'
import type { OwnField } from './own-fields'
import { lightFields, LENS_FIELDS, WALKER_FIELDS } from './own-fields'

/** What a row shows, and the own fields after another value was typed into it. */
function used<O extends object>(fields: readonly OwnField<O>[], label: string, own: O, value?: unknown) {
  const field = fields.find(each => each.label === label)!
  const shown = (of: O) => field.read?.(of) ?? valueAt(of, field.path)
  const next =
    value === undefined ? own : { ...own, ...(field.put?.(value as never, own) ?? { [field.path[0]!]: value }) }
  return { shown: shown(next), next }
}

describe('rows of lights', () => {
  it('show what each kind of light has, and nothing that the others have', () => {
    const labels = Object.fromEntries(
      LIGHT_KINDS.map(kind => [kind, lightFields(lightOwn({ light: kind })).map(({ label }) => label)]),
    )
    expect(labels.sun).not.toContain('In lumen')
    expect(labels.spot).toEqual(
      expect.arrayContaining(['In lumen', 'Reaches (0: no end)', 'Cone, to each side', 'Fades from']),
    )
    expect(labels.point).not.toContain('Fades from')
    expect(labels.area).toEqual(expect.arrayContaining(['Width', 'Height']))
    expect(labels.area).not.toContain('Casts shadows while it is near')
  })

  // The luminous flux of a point source is 4π times its intensity (SI brochure, 9th edition, 2.3.1: candela and lumen).
  it.each(['point', 'spot', 'area'] as const)(
    'say the brightness of a %s light in lumen as well, and take it so',
    kind => {
      const own = lightOwn({ light: kind, intensity: 100 })
      const before = used(lightFields(own), 'In lumen', own).shown as number
      if (kind === 'point') expect(before).toBeCloseTo(1256.637, 3)
      const { shown, next } = used(lightFields(own), 'In lumen', own, before * 2)
      expect([shown, next.intensity].map(value => Math.round((value as number) * 1e6) / 1e6)).toEqual([
        Math.round(before * 2e6) / 1e6,
        200,
      ])
      expect(light.own.safeParse(next).success).toBe(true)
    },
  )

  it('take a colour or a temperature, of which the later holds', () => {
    const own = lightOwn({ light: 'point' })
    const { next: warm } = used(lightFields(own), 'Temperature', own, 2700)
    expect([warm.temperature, warm.color === own.color]).toEqual([2700, false])
    expect(used(lightFields(warm), 'Colour', warm, '#ff0000').next).toMatchObject({
      color: '#ff0000',
      temperature: null,
    })
  })
})

describe('rows of cameras', () => {
  it('keep the lens where the film is made wider, and refuse a lens of nothing', () => {
    const own = cameraOwn({ fieldOfView: 27, aspect: 1.5, filmWidth: 36 })
    const lens = used(LENS_FIELDS, 'Focal length', own).shown as number
    // A lens of 50 mm sees 27.0° upright on film of 36 by 24 mm (table of a handbook of photography, from memory).
    expect(lens).toBeCloseTo(50, 0)
    const { next } = used(LENS_FIELDS, 'Width of film', own, 24)
    expect(used(LENS_FIELDS, 'Focal length', next).shown).toBeCloseTo(lens, 9)
    expect(next.fieldOfView).toBeLessThan(own.fieldOfView)
    expect(camera.own.safeParse(used(LENS_FIELDS, 'Focal length', own, 0).next).success).toBe(false)
  })
})

describe('rows of walks', () => {
  it('take what the settings keep, and nothing beyond', () => {
    for (const field of WALKER_FIELDS as NumberField[]) {
      const key = field.path[0] as keyof WalkSettings
      const kept = (value: number) => readSettings({ walk: { [key]: value } }).walk[key]
      expect([kept(field.least!), kept(field.most!)]).toEqual([field.least, field.most])
      expect([kept(field.least! - 0.01), kept(field.most! + 0.01)]).toEqual([FIRST_WALK[key], FIRST_WALK[key]])
    }
    expect(WALKER_FIELDS.map(({ path }) => path[0]).toSorted()).toEqual(Object.keys(FIRST_WALK).toSorted())
  })
})
