<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'

import PlateField from '@/ui/PlateField.vue'
import { valueAt, withValue, type FieldPath } from '@/stores/document'
import { useStarter } from '@/stores/starter'

/** Rated power in the unit that is on the plate. Changing the unit keeps the number: it says what the plate says. */
const starter = useStarter()
type PowerPath = Extract<FieldPath, `motor.rated_power_${string}`>
const UNITS: { value: PowerPath; label: string }[] = [
  { value: 'motor.rated_power_kw', label: 'kW' },
  { value: 'motor.rated_power_hp', label: 'hp' },
  { value: 'motor.rated_power_ps', label: 'PS' },
]
const fallback = computed<PowerPath>(() =>
  starter.document.practice === 'nec' ? 'motor.rated_power_hp' : 'motor.rated_power_kw',
)
const chosen = computed(
  () =>
    UNITS.find((u) => valueAt(starter.document, u.value) !== undefined)?.value ??
    picked.value ??
    fallback.value,
)
const picked = defineModel<PowerPath | null>('unit', { default: null })

function choose(path: PowerPath): void {
  const number = valueAt(starter.document, chosen.value)
  picked.value = path
  if (number === undefined || path === chosen.value) return
  starter.change(
    withValue(withValue(starter.document, chosen.value, undefined), path, number),
    null,
  )
}
</script>

<template>
  <div class="power">
    <PlateField :key="chosen" :path="chosen" label="Rated power" />
    <Select
      :model-value="chosen"
      :options="UNITS"
      option-label="label"
      option-value="value"
      aria-label="Unit of the rated power"
      size="small"
      class="units"
      @update:model-value="choose"
    />
  </div>
</template>

<style scoped>
.power {
  position: relative;
}
.units {
  position: absolute;
  right: 0;
  top: 0.14rem;
  width: 3.7rem;
  border-color: transparent;
}
.power :deep(.field) {
  grid-template-columns: minmax(0, 1fr) 9rem;
}
.units :deep(.p-select-label) {
  padding-inline: 0.4rem 0;
}
.units :deep(.p-select-dropdown) {
  width: 1.3rem;
}
</style>
