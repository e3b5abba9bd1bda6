<script setup lang="ts">
import VirtualScroller from 'primevue/virtualscroller'
import { computed, nextTick, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'

import type { BoardName, Line } from '@/api/client'
import StarterHead from '@/features/boards/StarterHead.vue'
import StarterLine from '@/features/boards/StarterLine.vue'
import StarterMenu from '@/features/boards/StarterMenu.vue'

/** Starters as a list: what they are, what is set, what is found; on a phone one card each. A long list is drawn as it is scrolled. */
const props = defineProps<{
  rows: (Line | undefined)[]
  boards: BoardName[]
  withBoard?: boolean
}>()
const router = useRouter()
const emit = defineEmits<{ changed: []; look: [first: number, last: number] }>()
/** So many rows stand on the page as they are, each as high as its text. */
const SHORT = 120
/** Height of a row of a long list, pixels. */
const ROW_PX = 44
const long = computed(() => props.rows.length > SHORT)
/** Rows are used again for other starters: one that goes out of sight hands the keyboard back to the list. */
function moved(e: { first: unknown; last: unknown }): void {
  const row = document.activeElement?.closest<HTMLElement>('.fixed tr[aria-rowindex]')
  const n = Number(row?.ariaRowIndex) - 1
  if (row && (n < Number(e.first) || n >= Number(e.last)))
    row.closest<HTMLElement>('.long')?.focus({ preventScroll: true })
  emit('look', Number(e.first), Number(e.last))
}
/** Place numbers alone: a page of rows that comes in leaves them as they are. */
const count = computed(() => props.rows.length)
const places = computed(() => Array.from({ length: count.value }, (_, n) => n))
/** A link in a row, as the router follows its own. */
function follow(e: MouseEvent): void {
  const to = (e.target as HTMLElement).closest('a')?.getAttribute('href')
  if (!to || e.button !== 0 || e.ctrlKey || e.metaKey || e.shiftKey || e.altKey) return
  e.preventDefault()
  void router.push(to)
}
const chosen = shallowRef<Line>()
const menu = ref<InstanceType<typeof StarterMenu>>()
async function open(line: Line, e: MouseEvent): Promise<void> {
  const at = e.currentTarget as HTMLElement
  chosen.value = line
  await nextTick()
  await menu.value?.show(at)
}
</script>

<template>
  <VirtualScroller
    v-if="long"
    :items="places"
    :item-size="ROW_PX"
    :num-tolerated-items="2"
    scroll-height="max(24rem, calc(100vh - 16rem))"
    class="long"
    tabindex="0"
    aria-label="Starters"
    @scroll-index-change="moved"
  >
    <template #content="{ items, contentRef }">
      <table :ref="contentRef" class="starters fixed" :aria-rowcount="rows.length" @click="follow">
        <StarterHead :with-board="withBoard" />
        <tbody>
          <tr class="above" :style="{ height: `${(items[0] ?? 0) * ROW_PX}px` }"></tr>
          <StarterLine
            v-for="n in items as number[]"
            :key="n % items.length"
            :line="rows[n]"
            :with-board="withBoard"
            :aria-rowindex="n + 1"
            @menu="open"
          />
        </tbody>
      </table>
    </template>
  </VirtualScroller>
  <table v-else class="starters" @click="follow">
    <StarterHead :with-board="withBoard" />
    <tbody>
      <StarterLine
        v-for="(line, n) in rows"
        :key="line?.row.id ?? -n"
        :line="line"
        :with-board="withBoard"
        @menu="open"
      />
    </tbody>
  </table>
  <StarterMenu
    v-if="chosen"
    :key="chosen.row.id"
    ref="menu"
    bare
    :starter="chosen.row"
    :board-id="chosen.board_id"
    :boards="boards"
    @changed="emit('changed')"
  />
</template>

<style scoped src="@/ui/page.css"></style>
<style scoped>
.long {
  width: 100%;
  border-bottom: 1px solid var(--ink);
}
.fixed {
  table-layout: fixed;
  border-bottom: 0;
}
.fixed :deep(thead) {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--sheet);
}
.fixed :deep(tbody tr:not(.above)) {
  height: 44px;
}
.fixed :deep(td) {
  padding-block: 0;
  height: 44px;
  white-space: nowrap;
  vertical-align: middle;
}
/* Only where a text can be too long: each cell that is cut costs time in each frame. */
.fixed :deep(:is(td:nth-child(-n + 3), td:not(.num, .marks, :last-child))) {
  overflow: hidden;
  text-overflow: ellipsis;
}
.fixed :deep(.c-tag) {
  width: 6.5rem;
}
.fixed :deep(.c-board) {
  width: 6rem;
}
.fixed :deep(.c-power),
.fixed :deep(.c-amps) {
  width: 6.4rem;
}
.fixed :deep(.c-supply) {
  width: 9.5rem;
}
.fixed :deep(.c-device) {
  width: 8.4rem;
}
.fixed :deep(.c-marks) {
  width: 6.2rem;
}
.fixed :deep(.c-menu) {
  width: 3.4rem;
}
@media (max-width: 73.75em) {
  .starters :deep(thead) {
    display: none;
  }
  .starters:not(.fixed) :deep(tr) {
    display: flex;
    flex-wrap: wrap;
    gap: 0.1rem 0.9rem;
    align-items: baseline;
    padding: 0.5rem 0.7rem;
    border-bottom: 1px solid var(--rule);
    position: relative;
  }
  .starters:not(.fixed) :deep(td) {
    border: 0;
    padding: 0;
  }
  .starters:not(.fixed) :deep(td:nth-child(2)) {
    flex-basis: 70%;
  }
  .starters:not(.fixed) :deep(td:last-child) {
    position: absolute;
    right: 0.2rem;
    top: 0.2rem;
  }
  .fixed :deep(td:nth-child(n + 4):not(:last-child)) {
    display: none;
  }
}
</style>
