<script setup lang="ts">
import Popover from 'primevue/popover'
import { computed, ref } from 'vue'

import { useWording } from '@/stores/wording'

/** What a field is, where it stands on the plate or at the machine, and usual values; also on F1 in the field. */
const props = defineProps<{ path: string; label: string; id?: string }>()
const wording = useWording()
const said = computed(() => wording.helpOf(props.path))
const popover = ref<InstanceType<typeof Popover>>()
const button = ref<HTMLElement>()
function show(event: Event): void {
  popover.value?.toggle(event, button.value)
}
defineExpose({ show })
</script>

<template>
  <template v-if="said.length">
    <button ref="button" type="button" class="help" tabindex="-1" aria-hidden="true" @click="show">
      ?
    </button>
    <span :id="id" class="visually-hidden">{{ said.join('. ') }}</span>
    <Popover ref="popover">
      <div class="said">
        <b>{{ label }}</b>
        <p v-for="s in said" :key="s">{{ s }}</p>
      </div>
    </Popover>
  </template>
</template>

<style scoped>
.help {
  border: 0;
  background: none;
  padding: 0 0.3rem;
  color: var(--quiet);
  cursor: help;
  font-size: 0.82rem;
}
.help:hover {
  color: var(--accent);
}
.said {
  max-width: 19rem;
  display: grid;
  gap: 0.2rem;
}
</style>
