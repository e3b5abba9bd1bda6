<script setup lang="ts">
/** That some starters are still sized, after an update of the rules or a large import, and that nobody need wait. */
defineProps<{ unsized: number; of: number }>()
</script>

<template>
  <p v-if="unsized" class="quiet" role="status">
    … {{ unsized }} of {{ of }} starters are being sized, after new rules or an import. Counts and
    figures follow by themselves; the first ones are there.
  </p>
</template>
