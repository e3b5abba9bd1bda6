import { ref, shallowRef, type Ref, type ShallowRef } from 'vue'

import { problemsOf } from '@/api/client'

/**
 * For questions that are asked again before the last one is answered: an answer that a newer question has overtaken
 * comes out as null, whichever of the two the server was quicker with.
 */
export function latest() {
  let asked = 0
  return async <T>(question: Promise<T>): Promise<T | null> => {
    const mine = ++asked
    const answer = await question
    return mine === asked ? answer : null
  }
}

interface Answer<T> {
  data?: T
  error?: unknown
}

/** What was refused, in words. */
export function wordsOf(error: unknown): string {
  return problemsOf(error)
    .map((p) => p.message)
    .join('; ')
}

/**
 * Something that the server is asked for: the newest answer, or in words why there is none. While the server is away
 * what it said last stays.
 *
 * `question` gives null while there is nothing to ask.
 */
export function useAsked<T>(question: () => Promise<Answer<T>> | null): {
  data: ShallowRef<T | null>
  said: Ref<string>
  ask: () => Promise<T | null>
} {
  const data = shallowRef<T | null>(null)
  const said = ref('')
  const newest = latest()
  async function ask(): Promise<T | null> {
    const asked = question()
    if (!asked) return null
    const answer = await newest(asked.catch(() => 'away' as const))
    if (answer === null) return null
    if (answer === 'away') {
      if (data.value === null) said.value = 'the server does not answer'
      return null
    }
    data.value = answer.data ?? null
    said.value = answer.data ? '' : wordsOf(answer.error)
    return data.value
  }
  return { data, said, ask }
}
