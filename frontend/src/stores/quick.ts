import { computed, ref, shallowRef, watch, type Ref, type ShallowRef } from 'vue'

import { client, type Practice, type ToFindOut } from '@/api/client'
import { latest, useAsked } from '@/stores/asked'

/** Pause after the last key before it is worked out what would change the answer [ms]. */
const PAUSE_MS = 400

/** One line from a plate, how it is read, and the answer, asked for at every key. */
export function useQuick(line: Ref<string>) {
  const practice = ref<Practice | null>(null)
  const asker = 1 + Math.floor(Math.random() * 2 ** 31 - 1)
  const answered = ref('')
  const findOut: ShallowRef<ToFindOut[] | null> = shallowRef(null)
  const newest = latest()
  let timer = 0

  const body = () => ({ line: line.value, practice: practice.value ?? undefined })
  const { data, said, ask } = useAsked(() =>
    line.value.trim() ? client.POST('/api/quick', { body: body() }) : null,
  )
  const quick = computed(() => (line.value.trim() ? (data.value?.quick ?? null) : null))
  /** The answer shown is to the line as it stands. */
  const fresh = computed(() => answered.value === JSON.stringify(body()))

  async function again(): Promise<void> {
    const asked = JSON.stringify(body())
    findOut.value = null
    window.clearTimeout(timer)
    if (!(await ask())) return
    answered.value = asked
    if (quick.value?.answer) timer = window.setTimeout(() => void unknowns(), PAUSE_MS)
  }

  async function unknowns(): Promise<void> {
    const answer = await newest(
      client.POST('/api/quick/find-out', { body: { ...body(), asker } }).catch(() => null),
    )
    if (answer?.data?.find_out) findOut.value = answer.data.find_out
  }

  watch([line, practice], () => void again())

  /** The other practice than the one in use. */
  function switchPractice(): void {
    practice.value = (quick.value?.read.practice ?? practice.value) === 'nec' ? 'iec' : 'nec'
  }

  return { quick, said, fresh, findOut, practice, switchPractice }
}
