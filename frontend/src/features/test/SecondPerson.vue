<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { ref } from 'vue'

import { client, problemsOf, type Problem } from '@/api/client'

/** A second person signs in for one signature; the device stays with who works at it. */
const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ signed: [{ name: string; second: string }] }>()
const name = ref('')
const password = ref('')
const problems = ref<Problem[]>([])

async function sign(): Promise<void> {
  const { data, error } = await client.POST('/api/sign-in/second', {
    body: { name: name.value, password: password.value },
  })
  password.value = ''
  problems.value = data ? [] : problemsOf(error)
  if (!data) return
  emit('signed', data)
  visible.value = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Another person signs">
    <form class="form" @submit.prevent="sign">
      <label>Name <InputText v-model="name" autocomplete="off" maxlength="80" /></label>
      <label>
        Password
        <InputText v-model="password" type="password" autocomplete="off" maxlength="200" />
      </label>
      <p v-for="p in problems" :key="p.message" class="problem" role="alert">■ {{ p.message }}</p>
      <Button type="submit" label="Sign" :disabled="!name.trim() || !password" />
    </form>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 0.7rem;
  justify-items: start;
}
label {
  display: grid;
  gap: 0.2rem;
}
.problem {
  color: var(--stop);
}
</style>
