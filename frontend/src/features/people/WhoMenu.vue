<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Menu from 'primevue/menu'
import type { MenuItem } from 'primevue/menuitem'
import { computed, onBeforeUnmount, ref } from 'vue'
import { useRouter } from 'vue-router'

import { client, problemsOf, type Problem } from '@/api/client'
import { ROLE_WORDS, useMe } from '@/stores/me'

/** Who has signed in, and what is theirs to do: pair a tablet, another password, sign out. */
const me = useMe()
const router = useRouter()
const menu = ref<InstanceType<typeof Menu>>()
const pairing = ref<{ address: string; picture: string; expires: string } | null>(null)
const left = ref(0)
let timer = 0
const changing = ref(false)
const word = ref({ old: '', new: '' })
const problems = ref<Problem[]>([])
const said = ref('')

const items = computed<MenuItem[]>(() => [
  { label: 'Pair a tablet', command: () => void pair() },
  { label: 'Change password', command: () => (changing.value = true) },
  { label: 'Sign out all other devices', command: () => void elsewhere() },
  ...(me.may('administers')
    ? [{ label: 'People and changes', command: () => void router.push('/people') }]
    : []),
  { label: 'Sign out', command: () => void me.signOut() },
])

async function pair(): Promise<void> {
  const { data, error } = await client.POST('/api/pairing')
  said.value = data ? '' : (problemsOf(error)[0]?.message ?? '')
  if (!data) return
  pairing.value = data
  count()
}
function count(): void {
  window.clearTimeout(timer)
  if (!pairing.value) return
  left.value = Math.max(0, Math.round((Date.parse(pairing.value.expires) - Date.now()) / 1000))
  if (left.value > 0) timer = window.setTimeout(count, 1000)
}
onBeforeUnmount(() => window.clearTimeout(timer))
async function elsewhere(): Promise<void> {
  const { data, error } = await client.POST('/api/sign-in/everywhere')
  said.value = data
    ? '✓ All other devices are signed out.'
    : `■ ${problemsOf(error)[0]?.message ?? ''}`
  window.setTimeout(() => (said.value = ''), 6000)
}
async function change(): Promise<void> {
  const { data, error } = await client.PUT('/api/sign-in/password', { body: word.value })
  problems.value = data ? [] : problemsOf(error)
  if (!data) return
  changing.value = false
  word.value = { old: '', new: '' }
  said.value = '✓ Password changed; all other devices are signed out.'
  window.setTimeout(() => (said.value = ''), 6000)
}
const clock = computed(
  () => `${Math.floor(left.value / 60)}:${String(left.value % 60).padStart(2, '0')}`,
)
</script>

<template>
  <span v-if="said" role="status" class="said">{{ said }}</span>
  <button
    type="button"
    aria-haspopup="menu"
    class="me"
    :title="`${me.name} ${me.role ? ROLE_WORDS[me.role] : ''}`"
    @click="menu?.toggle($event)"
  >
    {{ me.name }} <span aria-hidden="true">▾</span>
  </button>
  <Menu ref="menu" :model="items" popup />
  <Dialog
    :visible="pairing !== null"
    modal
    header="Pair a tablet"
    :style="{ width: 'min(30rem, 94vw)' }"
    @update:visible="pairing = null"
  >
    <template v-if="pairing">
      <p>
        Scan this with the tablet's camera and open the address. It signs the tablet in as
        <b>{{ me.name }}</b>, once.
      </p>
      <img
        v-if="left > 0"
        :src="pairing.picture"
        alt="Code with the address to be opened on the tablet"
        class="code"
      />
      <p v-if="left > 0" class="figures" role="timer">expires in {{ clock }}</p>
      <p v-else>▲ The code has expired. <Button label="New code" size="small" @click="pair()" /></p>
      <p class="quiet figures address">{{ pairing.address.split('#')[0] }}</p>
    </template>
  </Dialog>
  <Dialog v-model:visible="changing" modal header="Change password">
    <form class="form" @submit.prevent="change">
      <label>
        Your password
        <InputText v-model="word.old" type="password" autocomplete="current-password" />
      </label>
      <label>
        New password, at least 10 characters
        <InputText v-model="word.new" type="password" autocomplete="new-password" />
      </label>
      <p v-for="p in problems" :key="p.message" class="problem" role="alert">■ {{ p.message }}</p>
      <Button type="submit" label="Change" :disabled="!word.old || !word.new" />
    </form>
  </Dialog>
</template>

<style scoped>
.me {
  color: inherit;
  background: none;
  border: 1px solid currentcolor;
  border-radius: 2px;
  cursor: pointer;
  padding: 0.1rem 0.6rem;
  white-space: nowrap;
  max-width: 12rem;
  flex-shrink: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.said {
  white-space: nowrap;
  font-size: 0.9rem;
}
.code {
  display: block;
  width: min(22rem, 80vw);
  margin: 0.6rem auto;
}
.address {
  overflow-wrap: anywhere;
}
.form {
  display: grid;
  gap: 0.7rem;
  justify-items: start;
}
.form label {
  display: grid;
  gap: 0.2rem;
}
.problem {
  color: var(--stop);
}
.quiet {
  color: var(--quiet);
}
</style>
