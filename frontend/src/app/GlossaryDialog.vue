<script setup lang="ts">
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'

import { client, type Term } from '@/api/client'
import { latest } from '@/stores/asked'
import { useWording } from '@/stores/wording'

/** Terms of the trade, found by any of their names. */
const visible = defineModel<boolean>('visible', { required: true })
const wording = useWording()
const find = ref('')
const found = ref<Term[] | null>(null)
const newest = latest()
watch(find, async (text) => {
  const answer = await newest(
    client.GET('/api/glossary', { params: { query: { find: text } } }).catch(() => null),
  )
  if (answer?.data) found.value = answer.data.terms
})
watch(visible, (open) => {
  if (open) find.value = ''
})
const shown = computed(() => (find.value.trim() ? (found.value ?? []) : wording.terms))
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    header="Glossary"
    :style="{ width: 'min(44rem, 96vw)' }"
    dismissable-mask
  >
    <InputText
      v-model="find"
      size="small"
      class="find"
      autofocus
      maxlength="80"
      placeholder="magnet, energy coil, retaining contact, A1 …"
      aria-label="Find a term"
    />
    <dl class="terms" tabindex="0" aria-label="Terms">
      <template v-for="t in shown" :key="t.term">
        <dt>
          {{ wording.say(t.term) }} <span class="quiet">{{ t.also.join(', ') }}</span>
        </dt>
        <dd>{{ wording.say(t.says) }}</dd>
      </template>
    </dl>
    <p v-if="shown.length === 0" class="quiet" role="status">No term goes by that name.</p>
  </Dialog>
</template>

<style scoped>
.find {
  width: 100%;
}
.terms {
  margin: 0.7rem 0 0;
  height: min(26rem, 56vh);
  overflow: auto;
}
dt {
  font-weight: 650;
}
dt .quiet {
  font-weight: 400;
  font-size: 0.9rem;
}
dd {
  margin: 0 0 0.7rem;
}
</style>
