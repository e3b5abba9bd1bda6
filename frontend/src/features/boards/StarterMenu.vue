<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Menu from 'primevue/menu'
import Select from 'primevue/select'
import { computed, nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'

import { client, type BoardName, type StarterDocument } from '@/api/client'
import { wordsOf } from '@/stores/asked'
import { useBin } from '@/stores/bin'
import { useMe } from '@/stores/me'

/** What can be done with a starter as a whole. */
const props = defineProps<{
  starter: { id: number; tag: string; service: string }
  boardId: number
  boards: BoardName[]
  /** Without a button of its own: it is opened at another one. */
  bare?: boolean
}>()
const emit = defineEmits<{ changed: [] }>()
const router = useRouter()
const bin = useBin()
const me = useMe()
const menu = ref<InstanceType<typeof Menu>>()
const button = ref<HTMLElement>()
/** Menu and dialogs are made when somebody wants them. */
const wanted = ref(false)
async function show(at: HTMLElement | undefined): Promise<void> {
  wanted.value = true
  await nextTick()
  menu.value?.toggle({ currentTarget: at } as unknown as Event)
}
defineExpose({ show })
const path = computed(() => ({ starter_id: props.starter.id }))
const others = computed(() => props.boards.filter((b) => b.id !== props.boardId))
/** So many boards are offered in the menu itself; more are chosen in a list. */
const FEW = 5

const refused = ref('')
const renaming = ref<{ tag: string; service: string } | null>(null)
const moving = ref<{ copy: boolean; to: number | null } | null>(null)

async function remove(): Promise<void> {
  if (await bin.remove(props.starter.id, props.starter.tag)) emit('changed')
}
async function rename(): Promise<void> {
  const r = renaming.value
  if (!r) return
  const { data } = await client.GET('/api/starters/{starter_id}', { params: { path: path.value } })
  if (!data) return
  const document = { ...data.document, tag: r.tag.trim(), service: r.service.trim() }
  const { error } = await client.PUT('/api/starters/{starter_id}', {
    params: { path: path.value },
    body: { version: data.version, document: document as unknown as StarterDocument },
  })
  refused.value = error ? wordsOf(error) : ''
  if (!error) renaming.value = null
  emit('changed')
}
async function goToBoard(): Promise<void> {
  const m = moving.value
  if (!m || m.to === null) return
  const params = { path: path.value }
  const answer = m.copy
    ? await client.POST('/api/starters/{starter_id}/copy', {
        params,
        body: { tag: '', board_id: m.to },
      })
    : await client.POST('/api/starters/{starter_id}/move', { params, body: { board_id: m.to } })
  refused.value = answer.error ? wordsOf(answer.error) : ''
  if (answer.error) return
  moving.value = null
  if (m.copy && answer.data) await router.push(`/starters/${answer.data.id}/plate`)
  else emit('changed')
}

async function copy(board: number): Promise<void> {
  const { data, error } = await client.POST('/api/starters/{starter_id}/copy', {
    params: { path: path.value },
    body: { tag: '', board_id: board },
  })
  if (data) await router.push(`/starters/${data.id}/plate`)
  else refused.value = wordsOf(error)
}
async function move(board: number): Promise<void> {
  const { error } = await client.POST('/api/starters/{starter_id}/move', {
    params: { path: path.value },
    body: { board_id: board },
  })
  refused.value = error ? wordsOf(error) : ''
  if (!error) emit('changed')
}
const opened = {
  label: 'Open',
  command: () => void router.push(`/starters/${props.starter.id}/plate`),
}
const file = { label: 'Save as JSON file', url: `/api/starters/${props.starter.id}/document.json` }
const changing = computed(() => [
  {
    label: 'Rename',
    command: () => (renaming.value = { tag: props.starter.tag, service: props.starter.service }),
  },
  { label: 'Copy on this board', command: () => void copy(props.boardId) },
  ...(others.value.length > FEW
    ? [
        {
          label: 'Copy to another board',
          command: () => (moving.value = { copy: true, to: null }),
        },
        {
          label: 'Move to another board',
          command: () => (moving.value = { copy: false, to: null }),
        },
      ]
    : others.value.flatMap((b) => [
        { label: `Copy to ${b.name}`, command: () => void copy(b.id) },
        { label: `Move to ${b.name}`, command: () => void move(b.id) },
      ])),
])
const items = computed(() =>
  me.may('designs')
    ? [
        opened,
        ...changing.value,
        file,
        { separator: true },
        { label: 'Remove', command: () => void remove() },
      ]
    : [opened, file],
)
</script>

<template>
  <button
    v-if="!bare"
    ref="button"
    type="button"
    class="more"
    aria-haspopup="menu"
    :aria-label="`Menu of ${starter.tag}`"
    @click="show(button)"
  >
    ⋯
  </button>
  <template v-if="wanted">
    <Menu ref="menu" popup :model="items" />
    <Dialog
      :visible="renaming !== null"
      modal
      header="Rename starter"
      @update:visible="renaming = null"
    >
      <form v-if="renaming" class="form" @submit.prevent="rename">
        <label
          >Tag <InputText v-model="renaming.tag" size="small" maxlength="40" autofocus
        /></label>
        <label
          >Description <InputText v-model="renaming.service" size="small" maxlength="120"
        /></label>
        <p v-if="refused" class="problem" role="alert">■ {{ refused }}</p>
        <Button type="submit" label="Save" size="small" />
      </form>
    </Dialog>
    <Dialog
      :visible="moving !== null"
      modal
      :header="moving?.copy ? 'Copy to another board' : 'Move to another board'"
      @update:visible="moving = null"
    >
      <form v-if="moving" class="form" @submit.prevent="goToBoard">
        <Select
          v-model="moving.to"
          :options="boards.map((b) => ({ id: b.id, label: `${b.name} · ${b.job}` }))"
          option-label="label"
          option-value="id"
          filter
          aria-label="Board"
        />
        <p v-if="refused" class="problem" role="alert">■ {{ refused }}</p>
        <Button
          type="submit"
          :label="moving.copy ? 'Copy' : 'Move'"
          :disabled="moving.to === null"
        />
      </form>
    </Dialog>
    <p v-if="refused && !renaming && !moving" class="problem" role="alert">■ {{ refused }}</p>
  </template>
</template>

<style scoped src="@/ui/more.css"></style>
<style scoped>
.problem {
  color: var(--stop);
}
.form {
  display: grid;
  gap: 0.7rem;
  min-width: min(22rem, 80vw);
}
.form label {
  display: grid;
  gap: 0.15rem;
}
</style>
