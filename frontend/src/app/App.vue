<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'

import GlossaryDialog from '@/app/GlossaryDialog.vue'
import SignIn from '@/features/people/SignIn.vue'
import WhoMenu from '@/features/people/WhoMenu.vue'
import { useInstalled } from '@/stores/installed'
import { useMe } from '@/stores/me'
import { painted } from '@/ui/painted'

const CAUTION =
  "Computed by stated rules. The local code, the makers' instructions and a licensed person decide."
const KEY = 'volmek.theme'
const dark = ref(
  (localStorage.getItem(KEY) ??
    (matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light')) === 'dark',
)

/** Paper is white whatever the screen is. */
const paper = matchMedia('print')
function paint(): void {
  document.documentElement.classList.toggle('dark', dark.value && !paper.matches)
  painted.value += 1
}

function turn(): void {
  dark.value = !dark.value
  localStorage.setItem(KEY, dark.value ? 'dark' : 'light')
  paint()
}

paint()

/** Past the bars to what the page is about. */
function skip(): void {
  const main = document.querySelector<HTMLElement>('main')
  main?.setAttribute('tabindex', '-1')
  main?.focus()
}
/** Paper says what it shows and when it was printed. */
const printed = ref({ title: '', at: '' })
function toPaper(): void {
  paint()
  if (paper.matches)
    printed.value = {
      title: document.title.replace(' · Volmek', ''),
      at: new Date().toISOString().slice(0, 16).replace('T', ' '),
    }
}
const glossary = ref(false)
const me = useMe()
const installed = useInstalled()
void installed.begin()
function pressed(e: KeyboardEvent): void {
  const target = e.target as HTMLElement
  const typing = target.matches('input, textarea, select, [role=combobox], [role=listbox] *')
  if (e.ctrlKey || e.metaKey || (typing && !e.altKey) || target.closest('[role=dialog]')) return
  if (e.key.toLowerCase() !== 'g') return
  e.preventDefault()
  glossary.value = true
}
onMounted(() => {
  window.addEventListener('keydown', pressed)
  paper.addEventListener('change', toPaper)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', pressed)
  paper.removeEventListener('change', toPaper)
})
</script>

<template>
  <div class="paper-head">
    <b>{{ printed.title }}</b>
    <span>printed {{ printed.at }} UTC</span>
    <span class="caution">{{ CAUTION }}</span>
  </div>
  <div class="top" role="banner">
    <a class="skip" href="#content" @click.prevent="skip">Skip to content</a>
    <RouterLink to="/" class="name">Volmek</RouterLink>
    <RouterLink to="/">Boards</RouterLink>
    <RouterLink to="/catalogue">Catalogue</RouterLink>
    <RouterLink to="/tables">Practice</RouterLink>
    <button type="button" class="plain" @click="glossary = true">Glossary</button>
    <span class="caution">{{ CAUTION }}</span>
    <WhoMenu v-if="me.workshop && me.name" />
    <button type="button" @click="turn">
      {{ dark ? 'Light' : 'Dark' }}<span class="mode"> mode</span>
    </button>
  </div>
  <p v-if="installed.keptSince" class="kept" role="status">
    ▲ The server does not answer. This is what it said on
    <b class="figures">{{ installed.keptSince.slice(0, 16).replace('T', ' ') }} UTC</b>; what you
    change and record is kept on this device and sent when it is back.
  </p>
  <p v-else-if="installed.newer" class="kept" role="status">
    A newer version of these pages is here.
    <button type="button" class="take" @click="installed.take()">Take it now</button> What you typed
    stays.
  </p>
  <RouterView v-if="me.ready || $route.name === 'pair'" />
  <SignIn v-if="me.workshop && $route.name !== 'pair' && (!me.name || me.lost)" />
  <GlossaryDialog v-model:visible="glossary" />
</template>

<style scoped>
.top .skip {
  color: var(--ink);
  position: absolute;
  left: 0.5rem;
  top: -4rem;
  z-index: 10;
  background: var(--sheet);
  padding: 0.4rem 0.8rem;
  border: 1px solid currentcolor;
}
.top .skip:focus {
  top: 0.3rem;
}
.top {
  display: flex;
  align-items: center;
  gap: 1.4rem;
  height: 2.4rem;
  padding: 0 0.9rem;
  background: #1b1d1a;
  color: #f4f2ea;
}
:global(.dark .top) {
  background: #0c0d0c;
  color: #efede4;
  border-bottom: 1px solid var(--rule);
}
.top a {
  color: inherit;
  text-decoration: none;
}
.top a:hover {
  text-decoration: underline;
}
.name {
  font-weight: 700;
  font-size: 1.1rem;
  letter-spacing: 0.02em;
}
.kept {
  padding: 0.3rem 0.9rem;
  background: var(--tint);
  color: var(--attention);
  border-bottom: 1px solid var(--rule-strong);
}
.kept .take {
  border: 0;
  padding: 0;
  color: var(--accent);
  text-decoration: underline;
}
.caution {
  font-size: 0.86rem;
  margin-left: auto;
  opacity: 0.85;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
button {
  background: none;
  border: 1px solid currentcolor;
  border-radius: 2px;
  cursor: pointer;
  padding: 0.1rem 0.6rem;
  white-space: nowrap;
}
.top .plain {
  border: 0;
  padding: 0;
}
.top .plain:hover {
  text-decoration: underline;
}
.top :focus-visible {
  outline-color: currentcolor;
}
@media (max-width: 38.75em) {
  .top {
    flex-wrap: wrap;
    gap: 0 0.75rem;
    padding: 0 0.6rem 0.2rem;
    height: auto;
  }
  .top a:not(.skip) {
    line-height: 48px;
  }
  .top button:not(.plain) {
    margin-left: auto;
  }
  /* the word alone leaves the bar in one line */
  .mode {
    display: none;
  }
  .caution {
    order: 2;
    flex-basis: 100%;
    white-space: normal;
  }
}
@media print {
  .top {
    display: none;
  }
}
</style>
