import { Color } from 'three'
import type { Material } from '../core/mesh/mesh'

function finish(name: string, hex: string, roughness: number, glow = 0): Material {
  // three holds colours as linear RGB, which is what glTF's factors are.
  const { r, g, b } = new Color(hex)
  const baseColor = [round(r), round(g), round(b)] as const
  return {
    name,
    baseColor,
    roughness,
    metallic: 0,
    emissive: glow > 0 ? (baseColor.map(value => round(value * glow)) as [number, number, number]) : [0, 0, 0],
  }
}

function round(value: number): number {
  return Number(value.toFixed(4))
}

/** The finishes of Lantern Quay, shared by all its parts. */
export const palette = {
  paving: finish('Sand paving', '#d2bd93', 0.92),
  pavingWorn: finish('Worn paving', '#c4ad80', 0.92),
  coping: finish('Pale coping', '#ddcfae', 0.85),
  masonry: finish('Quay masonry', '#a3926f', 0.95),
  masonryDark: finish('Wet masonry', '#7d7358', 0.9),
  timber: finish('Dark timber', '#6f4527', 0.8),
  plank: finish('Oiled plank', '#9a6a3e', 0.75),
  plankPale: finish('Pale plank', '#b98a57', 0.75),
  iron: finish('Blackened iron', '#2b3338', 0.5),
  hoop: finish('Barrel hoop', '#4a5257', 0.45),
  red: finish('Red canvas', '#bf3f35', 0.9),
  ochre: finish('Ochre canvas', '#e3a035', 0.9),
  green: finish('Green canvas', '#3c8070', 0.9),
  cream: finish('Cream canvas', '#efe2c4', 0.9),
  wicker: finish('Wicker', '#b08a4e', 0.95),
  plum: finish('Plum', '#6d3a5e', 0.6),
  leaf: finish('Leaf', '#5f8a4c', 0.9),
  leafDark: finish('Shaded leaf', '#45693f', 0.9),
  soil: finish('Soil', '#54402e', 1),
  clay: finish('Fired clay', '#b4623f', 0.85),
  grass: finish('Bank grass', '#8c9a63', 1),
  earth: finish('Bank earth', '#97815b', 1),
  water: finish('Canal water', '#5d958c', 0.35),
  hull: finish('Hull paint', '#2f6f86', 0.6),
  glass: { ...finish('Window glass', '#bcd9d6', 0.15), opacity: 0.35 },
  glow: finish('Lantern glass', '#ffd77a', 0.4, 0.9),
}
