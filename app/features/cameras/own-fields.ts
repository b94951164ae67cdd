import type { OwnOf } from '~~/core/level/kinds'
import { fieldOf, focalOf } from '~~/core/math/lens'
import { candelaOfPoint, colorOfKelvin, lumenOfArea, solidAngle } from '~~/core/math/photometry'
import type { Field, FieldQuantity, NumberField } from '~~/core/units/field'
import { choiceField, numberField, switchField } from '~~/core/units/field'
import type { WalkSettings } from '~~/core/walk/walker'
import { WALK_BOUNDS } from '~~/core/walk/walker'

type Light = OwnOf<'light'>
type Camera = OwnOf<'camera'>

/** A row of the form of a camera, a light or a marker: what changing it is called, before the thing's name. */
export type OwnField<O> = Field & {
  does: string | ((value: unknown) => string)
  /** What is shown, where that is worked out. */
  read?: (own: O) => unknown
  /** The own fields that follow from a value, where that is more than itself. */
  put?: (value: never, own: O) => Partial<O>
}

const LIGHT_UNITS = { sun: 'lx', point: 'cd', spot: 'cd', area: 'cd/m²' }

/** In the unit of a light's intensity, what one lumen of it is. */
function perLumen({ light, innerCone, outerCone, width, height }: Light): number {
  if (light === 'point') return candelaOfPoint(1)
  return light === 'spot' ? 1 / solidAngle(innerCone, outerCone) : 1 / lumenOfArea(1, width * height)
}

/** What can be set of a light. */
export function lightFields({ light }: Light): OwnField<Light>[] {
  const isSun = light === 'sun'
  const cone = (label: string, key: string, named: string): OwnField<Light> => ({
    ...numberField(label, [key], 'angle', { named, decimals: 1 }),
    does: 'Set the cone of',
  })
  const side = (label: string, key: string): OwnField<Light> => ({
    ...numberField(label, [key], 'length', { named: `${label} of the light` }),
    does: `Set the ${key} of`,
  })
  const lumen: OwnField<Light> = {
    ...numberField('In lumen', ['intensity'], 'number', { suffix: 'lm', decimals: 0 }),
    does: 'Set the brightness of',
    read: own => own.intensity / perLumen(own),
    put: (value: number, own) => ({ intensity: value * perLumen(own) }),
  }
  const reach: OwnField<Light> = {
    ...numberField('Reaches (0: no end)', ['range'], 'length', { named: 'Range' }),
    does: 'Set the range of',
  }
  return [
    { ...switchField('On', 'on'), does: on => (on ? 'Switch on' : 'Switch off') },
    {
      ...choiceField('Shines', 'when', { always: 'Always', day: 'By day', night: 'By night' }, { isOpen: true }),
      named: 'When it shines',
      does: 'Set when to shine of',
    },
    {
      type: 'color',
      label: 'Colour',
      named: 'Colour of the light',
      path: ['color'],
      does: 'Colour',
      put: (color: string) => ({ color, temperature: null }),
    },
    {
      ...numberField('Temperature', ['temperature'], 'number', { suffix: 'K', decimals: 0, empty: 'by colour' }),
      does: 'Set the temperature of',
      put: (temperature: number) => ({ temperature, color: colorOfKelvin(temperature) }),
    },
    {
      ...numberField('Brightness', ['intensity'], 'number', { suffix: LIGHT_UNITS[light], decimals: 1 }),
      does: 'Set the brightness of',
    },
    ...(isSun ? [] : [lumen, reach]),
    ...(light === 'spot'
      ? [cone('Cone, to each side', 'outerCone', 'Outer cone'), cone('Fades from', 'innerCone', 'Inner cone')]
      : []),
    ...(light === 'area' ? [side('Width', 'width'), side('Height', 'height')] : []),
    ...(light === 'area'
      ? []
      : [
          {
            ...switchField(isSun ? 'Casts shadows' : 'Casts shadows while it is near', 'shadow'),
            does: 'Set the shadows of',
          },
        ]),
  ]
}

/** Where a sun stands by place and hour. */
export const PLACE_FIELDS: readonly Field[] = [
  numberField('Latitude, north', ['latitude'], 'angle', { named: 'Latitude' }),
  numberField('Longitude, east', ['longitude'], 'angle', { named: 'Longitude' }),
  { type: 'text', label: 'Date and time', path: ['time'] },
  numberField('Hours ahead of UTC', ['zone'], 'number', { decimals: 2 }),
  numberField('North, clockwise from the back', ['north'], 'angle', { named: 'North' }),
]

/** How wide a camera sees, said as an angle or as a lens. */
export const ANGLE_FIELD: OwnField<Camera> = {
  ...numberField('Field of view, upright', ['fieldOfView'], 'angle', { decimals: 1 }),
  does: 'Set the field of view of',
}

const focal = ({ fieldOfView, aspect, filmWidth }: Camera) => focalOf(fieldOfView, aspect, filmWidth)

export const LENS_FIELDS: readonly OwnField<Camera>[] = [
  {
    ...numberField('Focal length', ['fieldOfView'], 'number', { suffix: 'mm', decimals: 1 }),
    does: 'Set the focal length of',
    read: focal,
    put: (value: number, { aspect, filmWidth }) => ({ fieldOfView: value > 0 ? fieldOf(value, aspect, filmWidth) : 0 }),
  },
  // Another width of film keeps the lens, and with it what is seen changes.
  {
    ...numberField('Width of film', ['filmWidth'], 'number', { suffix: 'mm', decimals: 1 }),
    does: 'Set the film of',
    put: (filmWidth: number, own) => ({ filmWidth, fieldOfView: fieldOf(focal(own), own.aspect, filmWidth) }),
  },
]

export const ASPECT_FIELD: OwnField<Camera> = {
  ...numberField('Width over height', ['aspect'], 'number', { decimals: 3 }),
  does: 'Set the proportions of',
}

export const DEPTH_FIELDS: readonly OwnField<Camera>[] = [
  { ...numberField('Near', ['near'], 'length', { named: 'Near of the camera' }), does: 'Set the near distance of' },
  { ...numberField('Far', ['far'], 'length', { named: 'Far of the camera' }), does: 'Set the far distance of' },
]

export const WALK_LINE_FIELDS: readonly OwnField<OwnOf<'marker'>>[] = [
  { ...numberField('Width', ['width'], 'length', { named: 'Width of the walking line' }), does: 'Set the width of' },
]

function walkerField(
  label: string,
  key: keyof WalkSettings,
  quantity: FieldQuantity,
  more?: Partial<NumberField>,
): Field {
  const [least, most] = WALK_BOUNDS[key]
  return numberField(label, [key], quantity, { least, most, ...more })
}

/** What a person who walks is like, of settings. */
export const WALKER_FIELDS: readonly Field[] = [
  walkerField('Eye height', 'eye', 'length'),
  walkerField('Half as wide', 'radius', 'length'),
  walkerField('Highest step', 'step', 'length'),
  walkerField('Steepest slope', 'slope', 'angle', { decimals: 1 }),
  walkerField('Walks', 'speed', 'number', { suffix: 'm/s', decimals: 1 }),
  walkerField('Runs', 'runSpeed', 'number', { suffix: 'm/s', decimals: 1 }),
  walkerField('Jumps', 'jump', 'length'),
  walkerField('Eye while crouching', 'crouch', 'length'),
]

/** The light around the level, of one of its skies. */
export const SKY_FIELDS: readonly Field[] = [
  { type: 'color', label: 'From above', named: "Colour of the sky's light", path: ['color'] },
  { type: 'color', label: 'From the ground', named: "Colour of the ground's light", path: ['ground'] },
  numberField('All around', ['ambient'], 'number', { named: 'Ambient light', suffix: 'lx', decimals: 1 }),
  numberField('Exposure', ['exposure'], 'number', { suffix: 'EV', decimals: 1 }),
]
