<script setup lang="ts">
import Button from 'primevue/button'
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import { client, problemsOf } from '@/api/client'
import { useMe } from '@/stores/me'

/** What a tablet opens from a code: it signs in with one press, and the code is gone from the address at once. */
const me = useMe()
const router = useRouter()
const code = ref('')
const said = ref('')
const busy = ref(false)

onMounted(() => {
  document.title = 'Pair · Volmek'
  code.value = location.hash.slice(1)
  history.replaceState(history.state, '', '/pair')
  if (!code.value) said.value = 'This address holds no code: scan it again from the other device.'
})
async function use(): Promise<void> {
  busy.value = true
  const { data, error } = await client.POST('/api/pairing/use', { body: { code: code.value } })
  busy.value = false
  if (!data) {
    said.value = problemsOf(error)[0]?.message ?? ''
    return
  }
  me.take(data)
  await router.replace('/')
}
</script>

<template>
  <main id="content" class="page">
    <h1>Pair this device</h1>
    <p>This signs the device in as the person whose laptop shows the code.</p>
    <Button label="Sign in on this device" :disabled="!code || busy" @click="use" />
    <p v-if="said" class="problem" role="alert">■ {{ said }}</p>
    <RouterLink to="/">Sign in with name and password instead</RouterLink>
  </main>
</template>

<style scoped src="@/ui/page.css"></style>
