<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'

import { typedNumber, valueAt, type FieldPath, type ValueAt } from '@/stores/document'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'
import FieldHelp from '@/ui/FieldHelp.vue'

/** One number or text of the document, sent at every keystroke and kept as typed whatever the server says. */
const props = defineProps<{
  path: FieldPath
  label?: string
  unit?: string
  words?: boolean
  hint?: string
  usual?: string
  compact?: boolean
}>()

const starter = useStarter()
const me = useMe()
const wording = useWording()
const label = computed(() => props.label ?? wording.labelOf(props.path))
const unit = computed(() => props.unit ?? wording.fields.get(props.path)?.unit ?? '')
const help = ref<InstanceType<typeof FieldHelp>>()
const held = computed(() => valueAt(starter.document, props.path))
const shown = (value: unknown) => (value === undefined || value === null ? '' : String(value))
const text = ref(shown(held.value))

// Undo, restore and loading change the document under the field; typing already agrees with it.
watch(held, (value) => {
  const typed = props.words ? text.value : typedNumber(text.value)
  if (typed !== value) text.value = shown(value)
})

const problem = computed(() => starter.problemAt.get(props.path) ?? '')
const needed = computed(() => starter.neededAt.has(props.path))
const typical = computed(() => {
  const figure = starter.design?.figures[props.path]
  return held.value === undefined && figure?.typical ? figure.text : ''
})
const inputId = computed(() => `field-${props.path.replaceAll('.', '-')}`)

function typed(value: string | undefined): void {
  text.value = value ?? ''
  starter.set(
    props.path,
    (props.words ? text.value : typedNumber(text.value)) as ValueAt<FieldPath>,
  )
}

function left(): void {
  starter.settle()
  if (!props.words && typeof held.value === 'number') text.value = shown(held.value)
}
</script>

<template>
  <div class="field" :class="{ wrong: problem, words, compact }">
    <span class="name" :class="{ 'visually-hidden': compact }">
      <label :for="inputId">{{ label }}</label>
      <FieldHelp v-if="!compact" :id="`${inputId}-help`" ref="help" :path="path" :label="label" />
    </span>
    <span class="entry">
      <InputText
        :id="inputId"
        :model-value="text"
        :inputmode="words ? 'text' : 'decimal'"
        :placeholder="typical || usual"
        :readonly="!me.may('designs')"
        :invalid="problem !== ''"
        :aria-describedby="`${inputId}-note ${inputId}-help`"
        autocomplete="off"
        spellcheck="false"
        size="small"
        :class="{ figures: !words }"
        @update:model-value="typed"
        @blur="left"
        @keydown.f1.prevent="help?.show($event)"
      />
      <span v-if="unit && !compact" class="unit">{{ unit }}</span>
    </span>
    <span
      v-if="problem"
      :id="`${inputId}-note`"
      class="note problem"
      :class="{ 'visually-hidden': compact }"
      role="alert"
      >{{ problem }}</span
    >
    <span v-else-if="needed && !compact" :id="`${inputId}-note`" class="note">needed</span>
    <button
      v-else-if="typical && !compact"
      :id="`${inputId}-note`"
      type="button"
      class="note typical"
      :aria-label="`${label}: ${typical} ${unit ?? ''} is typical, not from the plate. Show why.`"
      @click="starter.openWorking(path)"
    >
      typical, not from the plate
    </button>
    <span v-else-if="hint && !compact" :id="`${inputId}-note`" class="note">{{ hint }}</span>
  </div>
</template>

<style scoped>
.field {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 7.6rem;
  align-items: center;
  column-gap: 0.6rem;
  padding: 0.14rem 0;
}
.field.words {
  grid-template-columns: 5.2rem minmax(0, 1fr);
}
.field.compact {
  display: block;
  padding: 0;
}
.compact .entry :deep(input) {
  width: 100%;
}
label {
  font-size: 0.93rem;
}
.entry {
  display: flex;
  align-items: center;
}
.entry :deep(input) {
  width: 5.1rem;
  text-align: right;
  min-width: 0;
}
.words .entry :deep(input) {
  flex: 1;
  text-align: left;
}
.unit {
  width: 2.3rem;
  font-size: 0.86rem;
}
.note {
  grid-column: 1 / -1;
  text-align: right;
  font-size: 0.8rem;
  color: var(--quiet);
  padding-right: 2.5rem;
}
.problem {
  color: var(--stop);
  text-align: left;
  padding: 0 0 0.2rem;
}
.problem::before {
  content: '■ ';
}
button.typical {
  justify-self: end;
  background: none;
  border: 0;
  padding: 0;
  margin-right: 2.5rem;
  cursor: pointer;
  border-bottom: 1px dotted var(--accent);
}
.entry :deep(input::placeholder) {
  color: var(--quiet);
  font-style: italic;
}
</style>
