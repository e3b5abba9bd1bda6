<script setup lang="ts">
import { computed } from 'vue'

import DrawingView from '@/ui/DrawingView.vue'
import { useSymbols } from '@/stores/symbols'

/** A drawing by its name. */
const props = defineProps<{ name: string; scale?: number; decorative?: boolean }>()
const store = useSymbols()
const drawing = computed(() => store.symbols[props.name])
</script>

<template>
  <DrawingView v-if="drawing" :drawing="drawing" :scale="scale" :decorative="decorative" />
  <svg v-else width="72" height="66" aria-hidden="true"></svg>
</template>
