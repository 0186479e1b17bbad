import { describe, expect, it } from 'vitest'
import { rowsOfWords } from '../src/parts/traceDrawing'

describe('words beside their lines', () => {
  it('keeps one row while there is room', () => {
    expect(
      rowsOfWords(
        [
          { x: 0, width: 20 },
          { x: 40, width: 20 },
        ],
        3,
        10,
      ),
    ).toEqual([0, 0])
  })
  it('goes a row down where a neighbour still stands, and up again after it', () => {
    const words = [0, 10, 20, 60].map((x) => ({ x, width: 30 }))
    expect(rowsOfWords(words, 3, 5)).toEqual([0, 1, 2, 0])
  })
  it('takes the row that is free soonest when none is, so that the first and the last never lie on each other', () => {
    const words = [
      { x: 0, width: 50 },
      { x: 2, width: 8 },
      { x: 4, width: 8 },
      { x: 6, width: 50 },
    ]
    expect(rowsOfWords(words, 3, 0)).toEqual([0, 1, 2, 1])
  })
})
