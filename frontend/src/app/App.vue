<script setup lang="ts">
import { ref } from 'vue'

const KEY = 'volmek.theme'
const dark = ref(
  (localStorage.getItem(KEY) ??
    (matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light')) === 'dark',
)

function paint(): void {
  document.documentElement.classList.toggle('dark', dark.value)
}

function turn(): void {
  dark.value = !dark.value
  localStorage.setItem(KEY, dark.value ? 'dark' : 'light')
  paint()
}

paint()
</script>

<template>
  <div class="top">
    <RouterLink to="/" class="name">Volmek</RouterLink>
    <RouterLink to="/">Boards</RouterLink>
    <RouterLink to="/catalogue">Catalogue</RouterLink>
    <RouterLink to="/tables">Practice</RouterLink>
    <span class="caution"
      >Computed by stated rules. The local code, the makers' instructions and a licensed person
      decide.</span
    >
    <button type="button" @click="turn">{{ dark ? 'Light mode' : 'Dark mode' }}</button>
  </div>
  <RouterView />
</template>

<style scoped>
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
.top :focus-visible {
  outline-color: currentcolor;
}
@media (max-width: 620px) {
  .top {
    flex-wrap: wrap;
    gap: 0 0.9rem;
    padding: 0 0.6rem 0.2rem;
    height: auto;
  }
  .top a {
    line-height: 48px;
  }
  .top button {
    margin-left: auto;
  }
  .caution {
    order: 2;
    flex-basis: 100%;
    white-space: normal;
  }
}
@media print {
  .top > :not(.caution) {
    display: none;
  }
  .top {
    background: none;
    color: inherit;
  }
}
</style>
