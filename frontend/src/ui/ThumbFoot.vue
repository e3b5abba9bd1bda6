<script setup lang="ts">
/** Foot of a list worked through at the panel: stays in view, on a telephone across the page and large enough for a thumb. */
defineProps<{ label: string }>()
</script>

<template>
  <div class="foot" role="group" :aria-label="label" data-screen><slot /></div>
</template>

<style scoped>
.foot {
  position: sticky;
  bottom: 0;
  display: flex;
  gap: 0.5rem;
  padding: 0.5rem 0;
  background: var(--sheet);
  border-top: 2px solid var(--ink);
  z-index: 2;
}
.foot > :slotted(*) {
  border: 1px solid var(--accent);
  color: var(--accent);
  background: var(--paper);
  min-height: 2.4rem;
  padding: 0.2rem 0.8rem;
  font: inherit;
  cursor: pointer;
}
.foot > :slotted(:disabled) {
  color: var(--quiet);
  border-color: var(--rule-strong);
}
.foot > :slotted(.save) {
  margin-left: auto;
  background: var(--accent);
  color: var(--sheet);
  font-weight: 650;
}
.foot > :slotted(.save:disabled) {
  background: var(--tint);
  color: var(--quiet);
}
@media (max-width: 40em) {
  .foot {
    flex-wrap: wrap;
  }
  .foot > :slotted(*) {
    flex: 1;
    min-height: 48px;
    text-align: center;
  }
  .foot > :slotted(.save) {
    flex-basis: 100%;
  }
}
</style>
