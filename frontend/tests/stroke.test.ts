import { expect, it } from 'vitest'
import { breaksLoose, stroke } from '@/practice/stroke'

const free = { detents: [], gate: null }
const gated = { detents: [], gate: 0.08 }

it('moves a free lever anywhere within its slot', () => {
  expect(stroke(0.5, 0.3, free)).toBe(0.3)
  expect(stroke(0.5, 1.2, free)).toBe(1)
  expect(stroke(0.5, -0.1, free)).toBe(0)
})

it('is held by a gate until a second stroke begins at it', () => {
  expect(stroke(1, 0.08, gated)).toBe(0.08)
  expect(stroke(1, 0.079, gated)).toBe(0.08)
  expect(stroke(1, 0, gated)).toBe(0.08)
  expect(stroke(0.08, 0, gated)).toBe(0)
  expect(stroke(0.084, 0, gated)).toBe(0)
  expect(stroke(0.086, 0, gated)).toBe(0.08)
  expect(stroke(0.02, 0, gated)).toBe(0)
  expect(stroke(0, 1, gated)).toBe(1) // nothing holds it on the way out
})

it('rests in a detent that it comes near to', () => {
  const held = { detents: [0.62, 1], gate: null }
  expect(stroke(1, 0.649, held)).toBe(0.62)
  expect(stroke(1, 0.591, held)).toBe(0.62)
  expect(stroke(1, 0.651, held)).toBe(0.651)
  expect(stroke(0.62, 0.971, held)).toBe(1)
})

it('stays where it is until a finger has overcome its friction', () => {
  expect(breaksLoose(0.5, 0.519)).toBe(false)
  expect(breaksLoose(0.5, 0.521)).toBe(true)
  expect(breaksLoose(0.5, 0.481)).toBe(false)
  expect(breaksLoose(0.5, 0.479)).toBe(true)
})
