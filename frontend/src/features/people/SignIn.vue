<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { nextTick, onMounted, ref } from 'vue'

import type { Problem } from '@/api/client'
import { useJournal } from '@/stores/journal'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'

/** Name and password before anything is seen; over an open page when its sign-in has ended. */
const me = useMe()
const starter = useStarter()
const journal = useJournal()
const name = ref(me.name)
const password = ref('')
const problems = ref<Problem[]>([])
const busy = ref(false)
const box = ref<HTMLElement>()

async function enter(): Promise<void> {
  busy.value = true
  problems.value = await me
    .signIn(name.value, password.value)
    .catch(() => [{ field: 'request', message: 'the server does not answer', missing: false }])
  busy.value = false
  password.value = ''
  if (problems.value.length) {
    await nextTick()
    box.value?.querySelector<HTMLInputElement>('[name=password]')?.focus()
    return
  }
  // What was typed meanwhile is sent now.
  if (starter.state === 'offline') void starter.send()
  void journal.send()
}
onMounted(() =>
  box.value?.querySelector<HTMLInputElement>(me.name ? '[name=password]' : '[name=name]')?.focus(),
)
</script>

<template>
  <div class="over" role="dialog" aria-modal="true" aria-labelledby="sign-in-title">
    <form ref="box" class="box" @submit.prevent="enter">
      <h1 id="sign-in-title">Sign in</h1>
      <p v-if="me.lost" class="quiet">
        Your sign-in has ended. What you typed is kept on this page and saved when you are back.
      </p>
      <label>
        Name
        <InputText v-model="name" name="name" autocomplete="username" maxlength="80" />
      </label>
      <label>
        Password
        <InputText
          v-model="password"
          name="password"
          type="password"
          autocomplete="current-password"
          maxlength="200"
        />
      </label>
      <p v-for="p in problems" :key="p.message" class="problem" role="alert">■ {{ p.message }}</p>
      <Button
        type="submit"
        label="Sign in"
        :disabled="busy || !name.trim() || !password"
        class="go"
      />
      <p v-if="!me.encrypted" class="warn">
        ▲ Not encrypted: whoever shares this network can read the password. An administrator can set
        up TLS (see the guide).
      </p>
      <p class="quiet">
        Whoever administers this installation gives names and passwords. On a tablet, scan the code
        that a signed-in laptop shows under its name, <i>Pair a tablet</i>.
      </p>
    </form>
  </div>
</template>

<style scoped>
.over {
  position: fixed;
  inset: 2.4rem 0 0;
  z-index: 900;
  display: grid;
  place-items: start center;
  padding: 8vh 1rem 2rem;
  overflow: auto;
  background: var(--paper);
}
.box {
  width: min(26rem, 100%);
  display: grid;
  gap: 0.8rem;
  padding: 1.2rem 1.4rem 1.4rem;
  background: var(--sheet);
  border-top: 2px solid var(--ink);
  border-bottom: 1px solid var(--ink);
}
h1 {
  font-size: 1.35rem;
  font-weight: 650;
}
label {
  display: grid;
  gap: 0.2rem;
}
.go {
  justify-self: start;
  min-height: 2.6rem;
}
.problem {
  color: var(--stop);
}
.warn {
  color: var(--attention);
}
.quiet {
  color: var(--quiet);
}
</style>
