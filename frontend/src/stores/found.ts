/** Starters searched, filtered and sorted by the server, a page at a time: on the start page over all boards, on a board over its own. */
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'

import { client, type Line } from '@/api/client'
import { latest, wordsOf } from '@/stores/asked'

export const FILTERS = [
  { value: 'all', label: 'all starters' },
  { value: 'stop', label: 'with stops' },
  { value: 'attention', label: 'with warnings' },
  { value: 'open', label: 'with open items' },
  { value: 'incomplete', label: 'incomplete' },
] as const
export const SORTS = [
  { value: 'board', label: 'as on the board' },
  { value: 'worst', label: 'worst first' },
  { value: 'tag', label: 'by tag' },
  { value: 'current', label: 'by current' },
] as const
type Filter = (typeof FILTERS)[number]['value']
type Sort = (typeof SORTS)[number]['value']

const PAGE = 100
/** After the last key; and between two looks while starters are still sized. */
const PAUSE_MS = 120
const AGAIN_MS = 3000

/**
 * Lines of a board, or of all; only those that were looked at are here, the places of the others are empty.
 *
 * `board` gives null for all boards.
 */
export function useFound(board: () => number | null, always = true) {
  const find = ref('')
  const filter = ref<Filter>('all')
  const sort = ref<Sort>('board')
  const active = computed(
    () => find.value.trim() !== '' || filter.value !== 'all' || sort.value !== 'board',
  )
  const rows = shallowRef<(Line | undefined)[]>([])
  const total = ref(0)
  const of = ref(0)
  const unsized = ref(0)
  const said = ref('')
  const ready = ref(false)
  const newest = latest()
  const asked = new Set<number>()
  let timer = 0
  let again = 0

  async function page(number: number, anew = false): Promise<void> {
    const on = board()
    if (asked.has(number) && !anew) return
    asked.add(number)
    const query = {
      ...(on === null ? {} : { board_id: on }),
      find: find.value.trim(),
      filter: filter.value,
      sort: sort.value,
      offset: number * PAGE,
      limit: PAGE,
    }
    const question = client
      .GET('/api/lines', { params: { query } })
      .catch(() => ({ data: undefined, error: undefined }))
    const answer = await (anew ? newest(question) : question)
    if (!answer) return
    const { data, error } = answer
    if (!data) {
      said.value = error ? wordsOf(error) : 'the server does not answer'
      asked.delete(number)
      return
    }
    said.value = ''
    const next = anew ? new Array<Line | undefined>(data.total) : [...rows.value]
    next.length = data.total
    data.rows.forEach((line, n) => (next[number * PAGE + n] = line))
    rows.value = next
    total.value = data.total
    of.value = data.of
    unsized.value = data.unsized
    ready.value = true
    window.clearTimeout(again)
    if (data.unsized) again = window.setTimeout(() => void ask(), AGAIN_MS)
  }
  /** The list anew; pages that were scrolled to are asked for again as they are looked at. */
  async function ask(): Promise<void> {
    if (!always && !active.value) return
    asked.clear()
    await page(0, true)
    const last = shown.at(-1)
    if (last !== undefined && last >= PAGE) await look(shown[0] ?? 0, last)
  }
  let shown: number[] = []
  /** Rows that come into sight. */
  async function look(first: number, last: number): Promise<void> {
    shown = [first, last]
    const pages = [Math.floor(first / PAGE), Math.floor(Math.max(first, last - 1) / PAGE)]
    await Promise.all([...new Set(pages)].map((n) => page(n)))
  }
  watch([find, filter, sort], () => {
    shown = []
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void ask(), PAUSE_MS)
  })
  onBeforeUnmount(() => {
    window.clearTimeout(timer)
    window.clearTimeout(again)
  })
  return { find, filter, sort, active, rows, total, of, unsized, said, ready, ask, look }
}
