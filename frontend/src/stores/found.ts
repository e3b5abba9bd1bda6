/** Starters searched, filtered and sorted: on the start page over all boards, on a board over its own. */
import { computed, ref, type ComputedRef } from 'vue'

import type { BoardsOut } from '@/api/client'

export type Row = BoardsOut['boards'][number]['starters'][number]
export interface Placed {
  row: Row
  boardId: number
  board: string
  /** Why it was found, where tag and description do not show it. */
  because: string
}
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

const KEEPS: Record<Filter, (r: Row) => boolean> = {
  all: () => true,
  stop: (r) => r.stop > 0,
  attention: (r) => r.attention > 0,
  open: (r) => r.open_points > 0,
  incomplete: (r) => r.problem !== '',
}
const grave = (r: Row) => 1e6 * r.stop + (r.problem ? 1e5 : 0) + 1e2 * r.attention + r.open_points

export function useFound(all: ComputedRef<Placed[]>) {
  const find = ref('')
  const filter = ref<Filter>('all')
  const sort = ref<Sort>('board')
  const active = computed(
    () => find.value.trim() !== '' || filter.value !== 'all' || sort.value !== 'board',
  )
  const found = computed(() => {
    const words = find.value.toLowerCase().split(/\s+/).filter(Boolean)
    const rows: Placed[] = []
    for (const placed of all.value) {
      const { row } = placed
      if (!KEEPS[filter.value](row)) continue
      const plain = `${row.tag} ${row.service} ${placed.board} ${row.power}`.toLowerCase()
      const rest = [...row.types, ...row.findings, row.problem]
      const missing = words.filter((w) => !plain.includes(w))
      const hits = (x: string) => missing.filter((w) => x.toLowerCase().includes(w)).length
      const because = rest.filter((x) => hits(x) > 0).sort((a, b) => hits(b) - hits(a))
      if (missing.every((w) => because.some((x) => x.toLowerCase().includes(w))))
        rows.push({ ...placed, because: because[0] ?? '' })
    }
    if (sort.value === 'worst') rows.sort((a, b) => grave(b.row) - grave(a.row))
    if (sort.value === 'tag')
      rows.sort((a, b) => a.row.tag.localeCompare(b.row.tag, 'en', { numeric: true }))
    if (sort.value === 'current')
      rows.sort((a, b) => (Number(b.row.current) || 0) - (Number(a.row.current) || 0))
    return rows
  })
  return { find, filter, sort, active, found }
}
