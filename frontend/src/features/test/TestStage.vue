<script setup lang="ts">
import Tab from 'primevue/tab'
import TabList from 'primevue/tablist'
import TabPanel from 'primevue/tabpanel'
import TabPanels from 'primevue/tabpanels'
import Tabs from 'primevue/tabs'
import { ref, watch } from 'vue'

import { client, problemsOf, type RecordView, type Seal } from '@/api/client'
import WhoBar from '@/features/build/WhoBar.vue'
import { useAsked } from '@/stores/asked'
import HistoryPanel from '@/features/test/HistoryPanel.vue'
import LogPanel from '@/features/test/LogPanel.vue'
import MeterDialog from '@/features/test/MeterDialog.vue'
import RecordPanel from '@/features/test/RecordPanel.vue'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

/** The proof: what was measured against its limits, what tripped, what is open, and how it went over the years. */
const starter = useStarter()
const journal = useJournal()
const sealing = ref('')
const meter = ref(false)
const tab = ref('record')

const { said, ask } = useAsked(() =>
  client.GET('/api/starters/{starter_id}/record', {
    params: { path: { starter_id: starter.id } },
  }),
)
/** What is kept stays on the page while the design cannot be worked out. */
const sheet = ref<RecordView | null>(null)
const seals = ref<Seal[]>([])
const damaged = ref<string[]>([])
async function load(): Promise<void> {
  const answer = await ask()
  if (!answer) return
  sheet.value = answer.sheet
  seals.value = answer.seals
  damaged.value = answer.damaged
  journal.shown(starter.id, answer.sheet.last)
}
watch(() => [starter.saved, journal.arrived], load, { immediate: true })

async function seal(): Promise<void> {
  const { data, error } = await client
    .POST('/api/starters/{starter_id}/seals', {
      params: { path: { starter_id: starter.id } },
      body: { who: journal.who.trim() },
    })
    .catch((e: unknown) => ({ data: undefined, error: e }))
  sealing.value = data ? '' : (problemsOf(error)[0]?.message ?? '')
  if (data) seals.value = data.seals
}
</script>

<template>
  <div class="prove">
    <WhoBar />
    <ul v-if="damaged.length" class="damaged" role="alert" aria-label="Damaged entries">
      <li v-for="d in damaged" :key="d">■ {{ d }}</li>
    </ul>
    <p v-if="said" class="quiet empty">No record yet: {{ said }}</p>
    <Tabs v-else-if="sheet" v-model:value="tab" lazy>
      <TabList>
        <Tab value="record">Record</Tab>
        <Tab value="log">Open items, trips, changes</Tab>
        <Tab value="history">Trends</Tab>
      </TabList>
      <TabPanels>
        <TabPanel value="record"><RecordPanel :sheet="sheet" @meter="meter = true" /></TabPanel>
        <TabPanel value="log">
          <LogPanel :sheet="sheet" :seals="seals" :sealing="sealing" @seal="seal" />
        </TabPanel>
        <TabPanel value="history"><HistoryPanel /></TabPanel>
      </TabPanels>
    </Tabs>
    <MeterDialog v-model:visible="meter" />
  </div>
</template>

<style scoped>
.empty {
  padding: 1.2rem 1rem;
}
.damaged {
  list-style: none;
  margin: 0;
  padding: 0.4rem 1rem;
  color: var(--stop);
}
.prove :deep(.p-tab) {
  padding: 0.6rem 0.9rem;
}
.prove :deep(.p-tabpanels) {
  padding: 0.7rem 1rem 2rem;
}
</style>
