<script setup lang="ts">
import VirtualScroller from 'primevue/virtualscroller'
import { computed, nextTick, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'

import type { BoardName, Line } from '@/api/client'
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
function moved(e: { first: unknown; last: unknown }): void {
  emit('look', Number(e.first), Number(e.last))
}
// Not `map`, which leaves out the places of rows that are not here yet.
const places = computed(() => Array.from(props.rows, (line, n) => ({ line, n })))
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
type Place = (typeof places.value)[number]
</script>

<template>
  <VirtualScroller
    v-if="long"
    :items="places"
    :item-size="ROW_PX"
    scroll-height="max(24rem, calc(100vh - 16rem))"
    class="long"
    tabindex="0"
    aria-label="Starters"
    @scroll-index-change="moved"
  >
    <template #content="{ items, contentRef, contentStyle }">
      <table
        :ref="contentRef"
        class="starters fixed"
        :style="contentStyle"
        :aria-rowcount="rows.length"
        @click="follow"
      >
        <thead>
          <tr>
            <th class="c-tag">Tag</th>
            <th>Description</th>
            <th v-if="withBoard" class="c-board">Board</th>
            <th class="num c-power">Power</th>
            <th class="num c-supply">Supply</th>
            <th class="num c-amps">In</th>
            <th class="c-device">Breaker or fuse</th>
            <th class="c-device">Contactor</th>
            <th class="c-device">Overload</th>
            <th class="num c-amps">Setting</th>
            <th class="c-marks">Findings</th>
            <th class="c-marks">Open</th>
            <th class="c-menu"><span class="visually-hidden">Menu</span></th>
          </tr>
        </thead>
        <tbody>
          <StarterLine
            v-for="place in items as Place[]"
            :key="place.n"
            :line="place.line"
            :with-board="withBoard"
            :aria-rowindex="place.n + 1"
            @menu="open"
          />
        </tbody>
      </table>
    </template>
  </VirtualScroller>
  <table v-else class="starters" @click="follow">
    <thead>
      <tr>
        <th>Tag</th>
        <th>Description</th>
        <th v-if="withBoard">Board</th>
        <th class="num">Power</th>
        <th class="num">Supply</th>
        <th class="num">In</th>
        <th>Breaker or fuse</th>
        <th>Contactor</th>
        <th>Overload</th>
        <th class="num">Setting</th>
        <th>Findings</th>
        <th>Open items</th>
        <th><span class="visually-hidden">Menu</span></th>
      </tr>
    </thead>
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
.fixed thead th {
  position: sticky;
  top: 0;
}
.fixed :deep(tbody tr) {
  height: 44px;
}
.fixed :deep(td) {
  padding-block: 0;
  height: 44px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  vertical-align: middle;
}
.fixed :deep(td:last-child) {
  text-overflow: clip;
}
.c-tag {
  width: 6.5rem;
}
.c-board {
  width: 6rem;
}
.c-power,
.c-amps {
  width: 6.4rem;
}
.c-supply {
  width: 9.5rem;
}
.c-device {
  width: 8.4rem;
}
.c-marks {
  width: 5.6rem;
}
.c-menu {
  width: 3.4rem;
}
@media (max-width: 73.75em) {
  .starters thead {
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
