import { expect, test } from 'vitest'

import { latest, useAsked } from './asked'

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

test('a refusal is said in words, and nothing is shown', async () => {
  const problems = [
    { field: 'motor.leads', message: 'seven leads are none of a motor', missing: false },
  ]
  const asked = useAsked(() => Promise.resolve({ error: { problems } }))
  expect(await asked.ask()).toBeNull()
  expect([asked.data.value, asked.said.value]).toEqual([null, 'seven leads are none of a motor'])
})

test('while the server is away the last answer stays', async () => {
  let away = false
  const asked = useAsked(() =>
    away ? Promise.reject(new TypeError()) : Promise.resolve({ data: 14.4 }),
  )
  await asked.ask()
  away = true
  expect(await asked.ask()).toBeNull()
  expect([asked.data.value, asked.said.value]).toEqual([14.4, ''])
})

test('a server that was never there is said so', async () => {
  const asked = useAsked(() => Promise.reject<{ data?: number }>(new TypeError()))
  await asked.ask()
  expect(asked.said.value).toBe('the server does not answer')
})
