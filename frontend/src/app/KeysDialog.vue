<script setup lang="ts">
import Dialog from 'primevue/dialog'

/** The list of keys. */
const visible = defineModel<boolean>('visible', { required: true })
const KEYS: { keys: string[]; does: string }[] = [
  { keys: ['1', '…', '5'], does: 'open Size, Circuit, Build, Test, Documents' },
  { keys: ['[', ']'], does: 'step back and forth inside a group' },
  { keys: ['L'], does: 'go to the line-up, then ↑ ↓; W opens the working of a device' },
  { keys: ['F'], does: 'open the findings and go to them' },
  { keys: ['W'], does: 'working of the motor current' },
  { keys: ['G'], does: 'glossary' },
  { keys: ['Ctrl', 'Z'], does: 'undo' },
  { keys: ['Ctrl', 'Y'], does: 'redo' },
  { keys: ['Esc'], does: 'close what is open' },
  { keys: ['Alt'], does: 'with one of these keys while typing in a field' },
  { keys: ['?'], does: 'this list' },
]
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Keys" dismissable-mask class="keys">
    <dl>
      <template v-for="k in KEYS" :key="k.does">
        <dt>
          <kbd v-for="key in k.keys" :key="key">{{ key }}</kbd>
        </dt>
        <dd>{{ k.does }}</dd>
      </template>
    </dl>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0.5rem 1.2rem;
  margin: 0;
}
dt {
  display: flex;
  gap: 0.3rem;
}
dd {
  margin: 0;
}
</style>
