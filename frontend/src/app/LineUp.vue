<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'

import RangeMark from '@/ui/RangeMark.vue'
import SymbolView from '@/ui/SymbolView.vue'
import VerdictMark from '@/ui/VerdictMark.vue'
import type { LineUpItem } from '@/api/client'
import { useStarter } from '@/stores/starter'

/** The single-line from supply to motor: navigation and summary in one, whole or as a rail. Arrow keys walk it. */
defineProps<{ rail?: boolean }>()
const emit = defineEmits<{ choose: [item: LineUpItem]; turn: [] }>()
const starter = useStarter()
const list = ref<HTMLElement>()

/** All of it in one line, for a phone. */
const line = computed(() =>
  (starter.design?.line_up ?? [])
    .map((i) => `${i.designation} ${(i.setting || i.rating).split(' · ')[0] ?? ''}`.trim())
    .join(' · '),
)

function walk(event: KeyboardEvent, index: number): void {
  const items = starter.design?.line_up ?? []
  const steps: Record<string, number> = {
    ArrowDown: index + 1,
    ArrowUp: index - 1,
    Home: 0,
    End: items.length - 1,
  }
  const next = items[steps[event.key] ?? -1]
  if (next) {
    event.preventDefault()
    starter.selected = next.key
    emit('choose', next)
    void nextTick(() => list.value?.querySelector<HTMLElement>('[aria-current="true"]')?.focus())
  } else if (event.key === 'w' && items[index]?.figure) {
    event.preventDefault()
    starter.openWorking(items[index].figure)
  }
}

function choose(item: LineUpItem): void {
  starter.selected = item.key
  emit('choose', item)
}
</script>

<template>
  <nav
    ref="list"
    class="lineup"
    :class="{ rail }"
    aria-label="Line-up: single-line from supply to motor"
  >
    <button
      type="button"
      class="turn"
      :aria-expanded="!rail"
      aria-label="Line-up with ratings and settings"
      :title="rail ? 'Show ratings and settings' : 'Show as a slim rail'"
      @click="emit('turn')"
    >
      <span v-if="!rail">Line-up</span>
      <span aria-hidden="true">{{ rail ? '»' : '«' }}</span>
    </button>
    <p v-if="starter.design" class="oneline figures" aria-hidden="true">
      {{ line }}
    </p>
    <template v-if="starter.design">
      <button
        v-for="(item, i) in starter.design.line_up"
        :key="item.key"
        type="button"
        class="item"
        :aria-current="starter.selected === item.key"
        :tabindex="starter.selected === item.key ? 0 : -1"
        @click="choose(item)"
        @keydown="walk($event, i)"
      >
        <SymbolView :name="item.symbol" decorative />
        <span class="words">
          <span class="head">
            <b class="figures">{{ item.designation }}</b>
            <span class="title" :class="{ 'visually-hidden': rail }">{{ item.title }}</span>
            <VerdictMark :verdict="item.verdict" wordless />
          </span>
          <template v-if="!rail">
            <span class="figures line"
              >{{ item.rating }} <RangeMark :designation="item.designation"
            /></span>
            <span v-if="item.setting" class="figures line setting">{{ item.setting }}</span>
          </template>
        </span>
      </button>
    </template>
    <p v-else class="empty">The line-up grows as soon as the plate tells enough.</p>
  </nav>
</template>

<style scoped>
.lineup {
  padding: 0 0 1rem;
}
.turn {
  display: flex;
  justify-content: space-between;
  align-items: center;
  width: 100%;
  padding: 0.25rem 0.6rem;
  border: 0;
  background: none;
  font-size: 0.86rem;
  color: var(--quiet);
  cursor: pointer;
}
.turn:hover {
  background: var(--tint);
}
.rail .turn {
  justify-content: center;
}
.rail .item {
  grid-template-columns: 60px minmax(0, 1fr);
  column-gap: 0;
  padding-left: 0.2rem;
}
.rail .item > :deep(svg) {
  margin-left: -14px;
}
.rail .head {
  display: grid;
  gap: 0;
}
.oneline {
  display: none;
}
@media (max-width: 38.75em) {
  .rail .item {
    display: none;
  }
  .rail .oneline {
    display: block;
    padding: 0 1rem 0 0;
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
    font-size: 0.86rem;
  }
  .lineup {
    padding-bottom: 0;
  }
  .lineup.rail {
    display: flex;
    align-items: center;
  }
  .turn {
    min-height: 40px;
  }
  .rail .turn {
    width: 48px;
    flex: none;
  }
}
.item {
  display: grid;
  grid-template-columns: 72px minmax(0, 1fr);
  column-gap: 0.5rem;
  overflow: hidden;
  align-items: start;
  width: 100%;
  min-height: 54px;
  padding: 0 0.6rem 0 0.4rem;
  border: 0;
  background: none;
  text-align: left;
  cursor: pointer;
}
/* The conductor is drawn on past the symbol; the item cuts it off where the next one begins. */
.item > :deep(svg) {
  align-self: start;
  overflow: visible;
  margin-bottom: -12px;
}

.item:hover {
  background: var(--tint);
}
.item[aria-current='true'] {
  background: var(--accent-tint);
  box-shadow: inset 3px 0 0 var(--accent);
}
.item:focus-visible {
  outline-offset: -2px;
}
.words {
  display: grid;
  padding: 0.25rem 0;
  line-height: 1.25;
}
.item:last-child {
  min-height: 62px;
}
.head {
  display: flex;
  gap: 0.5rem;
  align-items: baseline;
}
.title {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  font-size: 0.86rem;
  color: var(--quiet);
}
.line {
  font-size: 0.8rem;
  white-space: nowrap;
}
.setting {
  font-weight: 600;
}
@media (max-width: 62.5em) {
  .line {
    white-space: normal;
  }
}
.empty {
  padding: 1rem;
  color: var(--quiet);
}
</style>
