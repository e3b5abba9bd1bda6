<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'

import { client, problemsOf, type BoardOut, type CatalogueOut } from '@/api/client'

/** Which catalogues a board chooses from, and which of them counts first. */
const props = defineProps<{ board: BoardOut }>()
const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ chosen: [board: BoardOut] }>()
const catalogues = ref<CatalogueOut[]>([])
const chosen = ref<number[]>([])
const anew = ref(false)
const said = ref('')

watch(
  visible,
  async (open) => {
    if (!open) return
    chosen.value = [...props.board.catalogues]
    anew.value = false
    said.value = ''
    const { data } = await client.GET('/api/catalogues')
    catalogues.value = data?.catalogues ?? []
  },
  { immediate: true },
)

function tick(id: number, on: boolean): void {
  chosen.value = on ? [...chosen.value, id] : chosen.value.filter((x) => x !== id)
}

async function use(): Promise<void> {
  const { data, error } = await client.PUT('/api/boards/{board_id}/catalogues', {
    params: { path: { board_id: props.board.id } },
    body: { catalogues: chosen.value, design_anew: anew.value },
  })
  if (data) {
    emit('chosen', data)
    visible.value = false
  } else {
    said.value = problemsOf(error)[0]?.message ?? ''
  }
}
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    :header="`Catalogues of ${props.board.name}`"
    :style="{ width: '34rem', maxWidth: '96vw' }"
    :draggable="false"
  >
    <form @submit.prevent="use">
      <label v-for="c in catalogues" :key="c.id" class="row">
        <input
          type="checkbox"
          :checked="chosen.includes(c.id)"
          @change="tick(c.id, ($event.target as HTMLInputElement).checked)"
        />
        <span>{{ c.name }}</span>
        <span v-if="chosen.length > 1 && chosen.includes(c.id)" class="quiet figures">{{
          chosen.indexOf(c.id) + 1
        }}</span>
        <span class="quiet">{{ c.counts.reduce((n, t) => n + t.devices, 0) }} devices</span>
      </label>
      <p class="quiet">
        A type that is in several of them is taken from the one ticked first. The smallest device
        that fits is picked, whichever it comes from.
      </p>
      <label class="anew">
        <input v-model="anew" type="checkbox" /> Select the devices of all starters again. Otherwise
        they keep what they have until their plate or choices change.
      </label>
      <p v-if="said" class="problem" role="alert">■ {{ said }}</p>
      <div class="buttons">
        <Button type="submit" label="Use these" size="small" />
        <Button type="button" label="Cancel" size="small" text @click="visible = false" />
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 1.5rem minmax(0, 1fr) auto 6.5rem;
  gap: 0.5rem;
  padding: 0.3rem 0;
  border-bottom: 1px solid var(--rule);
}
.row > :last-child {
  text-align: right;
}
.anew {
  display: block;
  margin: 0.6rem 0;
}
.buttons {
  display: flex;
  gap: 0.6rem;
}
.problem {
  color: var(--stop);
}
</style>
