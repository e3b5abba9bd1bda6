<script setup lang="ts">
import { computed } from 'vue'

import { useStarter } from '@/stores/starter'

/** A figure of the design that opens its working. */
const props = defineProps<{ id: string; label?: string }>()
const starter = useStarter()
const figure = computed(() => starter.design?.figures[props.id])
</script>

<template>
  <button
    v-if="figure"
    type="button"
    class="opens"
    :aria-pressed="starter.workingId === id"
    :aria-label="`${label ?? figure.label}: ${figure.text} ${figure.unit}. Show the working.`"
    @click="starter.openWorking(id)"
  >
    {{ figure.text + (figure.unit ? ' ' : '')
    }}<span v-if="figure.unit" class="unit">{{ figure.unit }}</span>
  </button>
</template>
