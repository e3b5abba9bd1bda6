<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import { typedNumber, valueAt, withValue, type FieldPath } from '@/stores/document'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'

/** Rated power in the unit that is on the plate. Changing the unit keeps the number: it says what the plate says. */
const props = defineProps<{ focus?: boolean }>()
const starter = useStarter()
const me = useMe()
type PowerPath = Extract<FieldPath, `motor.rated_power_${string}`>
const UNITS: { value: PowerPath; label: string }[] = [
  { value: 'motor.rated_power_kw', label: 'kW' },
  { value: 'motor.rated_power_hp', label: 'hp' },
  { value: 'motor.rated_power_ps', label: 'PS' },
]
const picked = ref<PowerPath | null>(null)
const chosen = computed<PowerPath>(
  () =>
    UNITS.find((u) => valueAt(starter.document, u.value) !== undefined)?.value ??
    picked.value ??
    (starter.document.practice === 'nec' ? 'motor.rated_power_hp' : 'motor.rated_power_kw'),
)
const held = computed(() => valueAt(starter.document, chosen.value))
const text = ref(String(held.value ?? ''))
const focused = ref(false)
watch([held, chosen], () => {
  if (!focused.value) text.value = String(held.value ?? '')
})
const problem = computed(
  () => UNITS.map((u) => starter.problemAt.get(u.value)).find((p) => p !== undefined) ?? '',
)
const needed = computed(() => UNITS.some((u) => starter.neededAt.has(u.value)))
const input = ref<{ $el: HTMLInputElement }>()
onMounted(() => {
  if (props.focus) void nextTick(() => input.value?.$el.focus({ preventScroll: true }))
})

function typed(value: string | undefined): void {
  text.value = value ?? ''
  starter.set(chosen.value, typedNumber(text.value) as number | undefined)
}
function left(): void {
  focused.value = false
  starter.settle()
  if (!problem.value) text.value = String(held.value ?? '')
}
function choose(path: PowerPath): void {
  const number = held.value
  const was = chosen.value
  picked.value = path
  if (number === undefined || path === was) return
  starter.change(withValue(withValue(starter.document, was, undefined), path, number), null)
}
</script>

<template>
  <div class="rated power" :class="{ wrong: problem }">
    <label for="field-motor-rated_power_kw">Rated power</label>
    <span class="entry">
      <InputText
        id="field-motor-rated_power_kw"
        ref="input"
        :readonly="!me.may('designs')"
        :model-value="text"
        inputmode="decimal"
        :invalid="problem !== ''"
        :aria-describedby="problem || needed ? 'field-power-note' : undefined"
        autocomplete="off"
        spellcheck="false"
        class="figures"
        @update:model-value="typed"
        @focus="focused = true"
        @blur="left"
      />
      <Select
        :disabled="!me.may('designs')"
        :model-value="chosen"
        :options="UNITS"
        option-label="label"
        option-value="value"
        aria-label="Unit of the rated power"
        size="small"
        class="units"
        @update:model-value="choose"
      />
    </span>
    <span v-if="problem" id="field-power-note" class="problem" role="alert">■ {{ problem }}</span>
    <span v-else-if="needed" id="field-power-note" class="quiet needed">needed</span>
  </div>
</template>

<style scoped src="@/ui/rated.css"></style>
<style scoped>
.units {
  width: 3.9rem;
  margin-left: 0.1rem;
  border-color: transparent;
  background: none;
}
.power .entry :deep(input) {
  width: 7.5rem;
}
.units :deep(.p-select-label) {
  padding-inline: 0.3rem 0;
  font-size: 1rem;
}
.units :deep(.p-select-dropdown) {
  width: 1.4rem;
}
</style>
