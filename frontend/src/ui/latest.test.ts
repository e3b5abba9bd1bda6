import { expect, test } from 'vitest'

import { latest } from './latest'

test('an answer that comes after a newer question was asked is dropped', async () => {
  const newest = latest()
  let answerFirst: (words: string) => void = () => undefined
  const first = newest(new Promise<string>((resolve) => (answerFirst = resolve)))
  const second = newest(Promise.resolve('second'))
  expect(await second).toBe('second')
  answerFirst('first')
  expect(await first).toBeNull()
})

test('questions that wait for each other are all answered', async () => {
  const newest = latest()
  expect(await newest(Promise.resolve(1))).toBe(1)
  expect(await newest(Promise.resolve(2))).toBe(2)
})
