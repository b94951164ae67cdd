import { Body, Equator, Horizon, MakeTime, Observer } from 'astronomy-engine'
import { MathUtils, Matrix4, Quaternion, Vector3 } from 'three'
import type { Quat } from '../math/vectors'
import type { SunPlace } from './kinds/light'

/** Noon of 1 January 2000 as a Julian day number. */
const J2000 = 2_451_545

/** Julian day number of a day at noon, by the Gregorian calendar (Fliegel and Van Flandern 1968). */
function julianDay(year: number, month: number, day: number): number {
  const { trunc } = Math
  const early = trunc((month - 14) / 12)
  return (
    trunc((1461 * (year + 4800 + early)) / 4)
    + trunc((367 * (month - 2 - 12 * early)) / 12)
    - trunc((3 * trunc((year + 4900 + early) / 100)) / 4)
    + day
    - 32_075
  )
}

/**
 * Where the sun stands, in degrees: height above the horizon, without refraction, and direction from north over east.
 */
export function sunAt({ latitude, longitude, time, zone }: SunPlace): { altitude: number; azimuth: number } {
  const [year, month, day, hour, minute] = time.match(/\d+/g)!.map(Number) as [number, number, number, number, number]
  const days = julianDay(year, month, day) - J2000 + (hour - zone - 12) / 24 + minute / 1440
  const observer = new Observer(latitude, longitude, 0)
  const when = MakeTime(days)
  const { ra, dec } = Equator(Body.Sun, when, observer, true, true)
  const { altitude, azimuth } = Horizon(when, observer, ra, dec)
  return { altitude, azimuth }
}

/**
 * How a sun is turned that stands there: it shines along -Z, and north lies `north` degrees clockwise from -Z of the
 * level.
 */
export function sunRotation(place: SunPlace): Quat {
  const { altitude, azimuth } = sunAt(place)
  const [up, turn] = [MathUtils.degToRad(altitude), MathUtils.degToRad(azimuth + place.north)]
  const toSun = new Vector3(Math.sin(turn) * Math.cos(up), Math.sin(up), -Math.cos(turn) * Math.cos(up))
  const matrix = new Matrix4().lookAt(
    toSun,
    new Vector3(),
    Math.abs(toSun.y) > 0.9999 ? new Vector3(0, 0, -1) : new Vector3(0, 1, 0),
  )
  return new Quaternion().setFromRotationMatrix(matrix).normalize().toArray() as Quat
}
