<script setup lang="ts">
import Button from 'primevue/button'
import Drawer from 'primevue/drawer'
import { watch } from 'vue'

import { client } from '@/api/client'
import { useAsked } from '@/stores/asked'
import { useStarter } from '@/stores/starter'

/** States to go back to, and why somebody chose against the computed values. */
const visible = defineModel<boolean>('visible', { required: true })
const starter = useStarter()
const {
  data: history,
  said,
  ask,
} = useAsked(() =>
  client.GET('/api/starters/{starter_id}/history', {
    params: { path: { starter_id: starter.id } },
  }),
)
const time = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' })

watch(visible, (open) => {
  if (open) void ask()
})

async function back(id: number): Promise<void> {
  await starter.restore(id)
  visible.value = false
}
</script>

<template>
  <Drawer
    v-model:visible="visible"
    aria-label="History"
    header="History"
    position="right"
    :style="{ width: '26rem' }"
  >
    <p v-if="said">■ {{ said }}</p>
    <template v-if="history">
      <h3>States</h3>
      <ul>
        <li v-for="(r, i) in history.revisions" :key="r.id">
          <span>
            <span class="figures when">{{ time.format(new Date(r.saved)) }}</span>
            {{ r.change }}
          </span>
          <span v-if="i === 0" class="quiet">now</span>
          <Button v-else label="Go back" size="small" text @click="back(r.id)" />
        </li>
      </ul>
      <template v-if="history.overrides.length">
        <h3>Reasons for own choices</h3>
        <ul>
          <li v-for="(o, i) in history.overrides" :key="i">
            <span>
              <span class="figures when">{{ time.format(new Date(o.noted)) }}</span>
              {{ o.role.replaceAll('_', ' ') }}, {{ o.choice }}: {{ o.reason }}
            </span>
          </li>
        </ul>
      </template>
    </template>
  </Drawer>
</template>

<style scoped>
h3 {
  font-size: 0.93rem;
  margin: 0.8rem 0 0.2rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 0.6rem;
  align-items: center;
  border-bottom: 1px solid var(--rule);
  padding: 0.3rem 0;
  font-size: 0.93rem;
  overflow-wrap: anywhere;
}
.when {
  display: block;
  color: var(--quiet);
  font-size: 0.86rem;
}
</style>
