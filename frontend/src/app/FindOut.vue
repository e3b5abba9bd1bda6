<script setup lang="ts">
import { computed, inject } from 'vue'

import { MEND } from '@/app/mend'
import { useRanges } from '@/stores/ranges'

/** What to find out next: each unknown with what it changes, and a way to the field it is typed in. */
const props = defineProps<{ brief?: boolean }>()
const ranges = useRanges()
const first = computed(() =>
  (ranges.now?.find_out ?? []).filter((u) => u.changes.length > 0).slice(0, 3),
)
const mend = inject(MEND, () => undefined)
</script>

<template>
  <p v-if="props.brief" class="brief">
    <template v-if="first.length">
      <span>± Find out first:</span>
      <span v-for="u in first" :key="u.label" class="one">
        <button type="button" class="name" @click="mend(u.field)">{{ u.label }}</button>
        <span class="quiet figures">{{ u.span }}</span>
      </span>
    </template>
  </p>
  <section v-else-if="ranges.now" class="findout" aria-label="What to find out next">
    <h2 class="heading">How sure, and what to find out next</h2>
    <p class="words">{{ ranges.now.words }}</p>
    <ol v-if="ranges.now.find_out.length">
      <li v-for="u in ranges.now.find_out" :key="u.label" :class="{ nothing: !u.changes.length }">
        <p class="head">
          <button type="button" class="name" @click="mend(u.field)">{{ u.label }}</button>
          <span class="figures">{{
            u.taken === 'nothing' ? 'not known' : `assumed: ${u.taken}`
          }}</span>
          <span class="quiet figures">usual: {{ u.span }}</span>
        </p>
        <p v-if="u.changes.length" class="changes">
          changes {{ u.changes.slice(0, 4).join('; ')
          }}<template v-if="u.changes.length > 4">; and {{ u.changes.length - 4 }} more</template>
        </p>
        <p v-else class="quiet">changes nothing here</p>
        <p v-if="u.changes.length" class="quiet how" :title="u.source">{{ u.how }}</p>
      </li>
    </ol>
    <p class="quiet small">
      {{ ranges.now.tried }} designs computed over the spread of values not entered<template
        v-if="ranges.now.refused"
        >, {{ ranges.now.refused }} of them could not be</template
      >. Combinations are sampled, not all tried.
    </p>
  </section>
</template>

<style scoped>
.findout {
  padding: 0.2rem 1rem 1.2rem;
}
/* Its line is kept free: what is typed below never jumps when the answer comes. */
.brief {
  display: flex;
  flex-wrap: wrap;
  gap: 0.1rem 1.2rem;
  min-height: 1.95rem;
  padding: 0.45rem 1rem 0;
  font-size: 0.93rem;
}
.one {
  display: inline-flex;
  gap: 0.5rem;
  align-items: baseline;
}
.words {
  margin: 0.3rem 0 0.6rem;
}
ol {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(24rem, 1fr));
  gap: 0.7rem 1.8rem;
  margin: 0;
  padding: 0;
  list-style: none;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.9rem;
  align-items: baseline;
}
.name {
  border: 0;
  padding: 0;
  background: none;
  font: inherit;
  font-weight: 650;
  color: var(--accent);
  text-align: left;
  cursor: pointer;
  text-decoration: underline;
}
.changes,
.how,
.small {
  font-size: 0.86rem;
}
.small {
  margin-top: 0.7rem;
}
.nothing {
  opacity: 0.8;
}
@media (max-width: 56.25em) {
  ol {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
