<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'

import { valueAt, type FieldPath, type ValueAt } from '@/stores/document'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'
import FieldHelp from '@/ui/FieldHelp.vue'
import type { Choice } from '@/ui/words'

/** One choice of the document. `unset` names what holds while nothing is chosen. */
const props = defineProps<{
  path: FieldPath
  label?: string
  choices: Choice[]
  unset?: string
  compact?: boolean
}>()

const starter = useStarter()
const me = useMe()
const wording = useWording()
const label = computed(() => props.label ?? wording.labelOf(props.path))
const value = computed(
  () => (valueAt(starter.document, props.path) as string | number | boolean | undefined) ?? null,
)
// Said so that it differs from a choice that was made.
const placeholder = computed(() =>
  props.unset && props.unset !== 'not known' ? `${wording.say(props.unset)} (usual)` : 'not known',
)
const said = computed(() => props.choices.map((c) => ({ ...c, label: wording.say(c.label) })))
/** What motor, supply and practice forbid is not offered anew; what is chosen already stays to be seen. */
const offered = computed(() => {
  const allowed = starter.design?.offered[props.path]
  return allowed
    ? said.value.filter((c) => allowed.includes(String(c.value)) || c.value === value.value)
    : said.value
})
const problem = computed(() => starter.problemAt.get(props.path) ?? '')
const labelId = computed(() => `field-${props.path.replaceAll('.', '-')}-label`)
const inputId = computed(() => `field-${props.path.replaceAll('.', '-')}`)

function choose(next: string | number | boolean | null): void {
  starter.set(props.path, (next ?? undefined) as ValueAt<FieldPath>)
  starter.settle()
}
</script>

<template>
  <div class="choice" :class="{ compact }">
    <span class="label" :class="{ 'visually-hidden': compact }"
      ><span :id="labelId">{{ label }}</span
      ><FieldHelp v-if="!compact" :path="path" :label="label"
    /></span>
    <Select
      :disabled="!me.may('designs')"
      :model-value="value"
      :options="offered"
      option-label="label"
      option-value="value"
      :placeholder="placeholder"
      :label-id="inputId"
      :aria-labelledby="labelId"
      :show-clear="value !== null && unset !== undefined"
      :invalid="problem !== ''"
      size="small"
      @update:model-value="choose"
    />
    <span v-if="problem" class="problem" role="alert">■ {{ problem }}</span>
  </div>
</template>

<style scoped>
.choice {
  display: grid;
  grid-template-columns: minmax(5.2rem, 0.5fr) minmax(0, 1fr);
  align-items: center;
  column-gap: 0.6rem;
  padding: 0.14rem 0;
}
.choice.compact {
  display: block;
  padding: 0;
}
.label {
  font-size: 0.93rem;
}
.problem {
  grid-column: 1 / -1;
  font-size: 0.8rem;
  color: var(--stop);
}
.choice :deep(.p-select) {
  min-width: 0;
}
</style>
