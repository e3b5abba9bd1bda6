<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'

import { FILTERS, SORTS } from '@/stores/found'

/** Search, filter and order of a list of starters. */
defineProps<{ count: number; of: number }>()
const find = defineModel<string>('find', { required: true })
const filter = defineModel<string>('filter', { required: true })
const sort = defineModel<string>('sort', { required: true })
</script>

<template>
  <div class="find" role="search" aria-label="Find a starter">
    <InputText
      v-model="find"
      size="small"
      placeholder="Tag, description, device or finding"
      aria-label="Search starters"
      class="words"
    />
    <Select
      v-model="filter"
      :options="[...FILTERS]"
      option-label="label"
      option-value="value"
      aria-label="Show"
      size="small"
    />
    <Select
      v-model="sort"
      :options="[...SORTS]"
      option-label="label"
      option-value="value"
      aria-label="Order"
      size="small"
    />
    <span class="quiet" role="status">{{
      count === of ? `${of} starters` : `${count} of ${of}`
    }}</span>
  </div>
</template>

<style scoped>
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  align-items: center;
  width: 100%;
}
.words {
  flex: 0 1 22rem;
}
@media (max-width: 38.75em) {
  .find > * {
    flex: 1 1 100%;
    min-height: 48px;
    align-items: center;
  }
  .quiet {
    min-height: 0;
  }
}
</style>
