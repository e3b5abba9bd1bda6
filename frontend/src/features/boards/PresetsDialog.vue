<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'

import { client, problemsOf, type Preset } from '@/api/client'
import type { Draft } from '@/stores/document'
import { useStarter } from '@/stores/starter'
import { PRESET_PARTS } from '@/ui/words'

/** Keep parts of this starter under a name, or take over those of another preset. */
const visible = defineModel<boolean>('visible', { required: true })
const starter = useStarter()
const presets = ref<Preset[]>([])
const name = ref('')
const parts = ref<string[]>(['starter', 'protection', 'control'])
const said = ref('')
const there = computed(() => PRESET_PARTS.filter((p) => starter.document[p.value] !== undefined))

async function load(): Promise<void> {
  const { data } = await client.GET('/api/presets')
  presets.value = data?.presets ?? []
}

watch(visible, (open) => {
  if (!open) return
  said.value = ''
  void load()
})

function words(preset: Preset): string {
  return PRESET_PARTS.filter((p) => p.value in preset.parts)
    .map((p) => p.label.toLowerCase())
    .join(', ')
}

async function keep(): Promise<void> {
  const chosen = there.value.filter((p) => parts.value.includes(p.value as string))
  if (!name.value.trim() || chosen.length === 0) {
    said.value = 'Give it a name and tick at least one part.'
    return
  }
  const { error } = await client.PUT('/api/presets', {
    body: {
      name: name.value.trim(),
      parts: Object.fromEntries(chosen.map((p) => [p.value, starter.document[p.value]])),
    },
  })
  said.value = error ? (problemsOf(error)[0]?.message ?? '') : `“${name.value.trim()}” is saved.`
  await load()
}

function take(preset: Preset): void {
  starter.change({ ...starter.document, ...(preset.parts as Draft) }, null)
  visible.value = false
}

async function remove(preset: Preset): Promise<void> {
  await client.DELETE('/api/presets/{preset_id}', { params: { path: { preset_id: preset.id } } })
  await load()
}
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    header="Presets"
    :style="{ width: '40rem', maxWidth: '96vw' }"
    :draggable="false"
  >
    <ul v-if="presets.length" class="list">
      <li v-for="p in presets" :key="p.id">
        <span
          ><b>{{ p.name }}</b> <span class="quiet">{{ words(p) }}</span></span
        >
        <Button
          label="Apply"
          size="small"
          outlined
          :aria-label="`Apply ${p.name}`"
          @click="take(p)"
        />
        <Button
          label="Remove"
          size="small"
          text
          :aria-label="`Remove preset ${p.name}`"
          @click="remove(p)"
        />
      </li>
    </ul>
    <p v-else class="quiet">No presets yet. Save here what you use again and again.</p>
    <form @submit.prevent="keep">
      <h3>Save from this starter</h3>
      <div class="parts">
        <label v-for="p in there" :key="p.value as string">
          <input v-model="parts" type="checkbox" :value="p.value" /> {{ p.label }}
        </label>
      </div>
      <div class="entry">
        <label
          >as <InputText v-model="name" size="small" maxlength="80" aria-label="Name of the preset"
        /></label>
        <Button type="submit" label="Save" size="small" />
      </div>
      <p v-if="said" role="status">{{ said }}</p>
    </form>
  </Dialog>
</template>

<style scoped>
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  border-top: 1px solid var(--rule-strong);
}
.list li {
  display: flex;
  gap: 0.4rem;
  align-items: center;
  border-bottom: 1px solid var(--rule);
  padding: 0.25rem 0;
}
.list li > span {
  flex: 1;
}
h3 {
  font-size: 1rem;
  margin-top: 1rem;
}
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1.1rem;
  margin: 0.3rem 0 0.6rem;
}
.entry {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
</style>
