import { describe, expect, it } from 'vitest'

import { aligned, tailOf } from './figures'

describe('figures in columns', () => {
  it('counts the point and the decimals of the longest figure of a column', () => {
    expect(tailOf(['1', '2.5', '10.25'])).toBe(3)
    expect(tailOf(['1', '20'])).toBe(0)
    expect(tailOf([])).toBe(0)
  })

  it('takes a column with a word as words', () => {
    expect(tailOf(['1', 'RC-17'])).toBeNull()
    expect(aligned('RC-17', null)).toBe('RC-17')
  })

  it('puts blanks behind figures with fewer decimals, so that the points stand below each other', () => {
    const column = ['9.5', '16', '0.25']
    const decimals = tailOf(column)
    const set = column.map((cell) => aligned(cell, decimals))
    expect(set.map((cell) => cell.length - cell.replace(/\u00a0/g, '').length)).toEqual([1, 3, 0])
    expect(aligned('', decimals)).toBe('')
  })
})
