<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'

import { typedNumber, valueAt, withValue, type FieldPath } from '@/stores/document'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'
import FieldHelp from '@/ui/FieldHelp.vue'

/** Rated voltage or current as it stands on the plate: one value, 400/690, 230/460, or one with its connection. */
const props = defineProps<{ kind: 'voltage' | 'current' }>()
const starter = useStarter()
const me = useMe()
const unit = computed(() => (props.kind === 'voltage' ? 'V' : 'A'))
const label = computed(() => (props.kind === 'voltage' ? 'Voltage' : 'Plate current'))
const paths = computed(() => {
  const at = (middle: string) =>
    `motor.rated_${props.kind}${middle}_${unit.value.toLowerCase()}` as FieldPath
  return {
    single: at(''),
    delta: at('_delta'),
    star: at('_star'),
    low: at('_low'),
    high: at('_high'),
  }
})
const all = computed(() => Object.values(paths.value))
const shown = computed(() => {
  const p = paths.value
  const at = (path: FieldPath) => valueAt(starter.document, path) as number | string | undefined
  const [delta, star, low, high] = [at(p.delta), at(p.star), at(p.low), at(p.high)]
  if (delta !== undefined && star !== undefined) return `${delta}/${star}`
  if (low !== undefined || high !== undefined) return `${low ?? ''}/${high ?? ''}`
  if (delta !== undefined) return `${delta} Δ`
  if (star !== undefined) return `${star} Y`
  return String(at(p.single) ?? '')
})
const text = ref(shown.value)
const focused = ref(false)
watch(shown, (now) => {
  if (!focused.value) text.value = now
})
const problem = computed(
  () => all.value.map((p) => starter.problemAt.get(p)).find((p) => p !== undefined) ?? '',
)
const needed = computed(() => all.value.some((p) => starter.neededAt.has(p)))
const help = ref<InstanceType<typeof FieldHelp>>()
const id = computed(() => `field-${paths.value.single.replaceAll('.', '-')}`)

function typed(value: string | undefined): void {
  text.value = value ?? ''
  let next = starter.document
  for (const path of all.value) next = withValue(next, path, undefined)
  next = withValue(next, paths.value.single, typedNumber(text.value) as number | undefined)
  starter.change(next, paths.value.single)
}
function left(): void {
  focused.value = false
  starter.settle()
  if (!problem.value) text.value = shown.value
}
</script>

<template>
  <div class="rated" :class="{ wrong: problem }">
    <label :for="id">{{ label }}</label>
    <FieldHelp
      ref="help"
      :path="kind === 'voltage' ? 'motor.rated_voltage_delta_v' : 'motor.rated_current_delta_a'"
      :label="label"
    />
    <span class="entry">
      <InputText
        :id="id"
        :readonly="!me.may('designs')"
        :model-value="text"
        inputmode="text"
        :placeholder="kind === 'voltage' ? '400/690' : '14.8/8.5'"
        :invalid="problem !== ''"
        :aria-describedby="problem || needed ? `${id}-note` : undefined"
        autocomplete="off"
        spellcheck="false"
        class="figures"
        @update:model-value="typed"
        @focus="focused = true"
        @blur="left"
        @keydown.f1.prevent="help?.show($event)"
      />
      <span class="unit">{{ unit }}</span>
    </span>
    <span v-if="problem" :id="`${id}-note`" class="problem" role="alert">■ {{ problem }}</span>
    <span v-else-if="needed" :id="`${id}-note`" class="quiet needed">needed</span>
  </div>
</template>

<style scoped src="@/ui/rated.css"></style>
