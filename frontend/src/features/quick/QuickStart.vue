<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import { client, type BoardName } from '@/api/client'
import AnswerCard from '@/features/quick/AnswerCard.vue'
import { wordsOf } from '@/stores/asked'
import { useQuick } from '@/stores/quick'

/** From a plate to an answer in one line. */
defineProps<{ boards: BoardName[] }>()
const router = useRouter()
const line = ref('')
const field = ref<HTMLInputElement>()
const board = ref<number | null>(null)
const refused = ref('')
const { quick, said, fresh, findOut, practice, switchPractice } = useQuick(line)

/** The line in stretches, to be underlined behind the field. */
const stretches = computed(() => {
  const found: { text: string; kind: string }[] = []
  let at = 0
  for (const p of fresh.value ? (quick.value?.read.pieces ?? []) : []) {
    found.push({ text: line.value.slice(at, p.start), kind: '' })
    found.push({ text: line.value.slice(p.start, p.end), kind: p.understood ? 'yes' : 'no' })
    at = p.end
  }
  return [...found, { text: line.value.slice(at), kind: '' }]
})
const scrolled = ref(0)
const inUse = computed(() => quick.value?.read.practice ?? practice.value ?? 'iec')

onMounted(() => field.value?.focus({ preventScroll: true }))

async function open(): Promise<void> {
  const { data, error } = await client.POST('/api/quick/starter', {
    body: {
      line: line.value,
      practice: inUse.value,
      board_id: board.value ?? undefined,
      tag: '',
      service: '',
    },
  })
  if (data) await router.push(`/starters/${data.id}/plate`)
  else refused.value = wordsOf(error)
}
</script>

<template>
  <section class="quick" aria-label="Quick answer">
    <label for="quick-line" class="ask">Motor plate in one line</label>
    <div class="line">
      <div class="under figures" aria-hidden="true">
        <span class="moved" :style="{ transform: `translateX(${-scrolled}px)` }"
          ><span v-for="(s, i) in stretches" :key="i" :class="s.kind">{{ s.text }}</span></span
        >
      </div>
      <input
        id="quick-line"
        ref="field"
        v-model="line"
        class="figures"
        type="text"
        maxlength="300"
        autocomplete="off"
        autocapitalize="off"
        spellcheck="false"
        enterkeyhint="go"
        placeholder="7.5 kW 400 V 14.8 A"
        aria-describedby="quick-read"
        @scroll="scrolled = ($event.target as HTMLElement).scrollLeft"
        @keydown.f2.prevent="switchPractice"
        @keydown.enter="quick?.answer && open()"
      />
      <button type="button" class="practice" @click="switchPractice">
        <span :class="{ on: inUse === 'iec' }">IEC</span>
        <span :class="{ on: inUse === 'nec' }">North American</span>
        <kbd>F2</kbd>
        <span class="visually-hidden">Practice: switch</span>
      </button>
    </div>
    <p id="quick-read" class="read" role="status">
      <template v-if="quick && quick.read.pieces.length">
        <span v-for="(p, i) in quick.read.pieces" :key="i" class="piece">
          <template v-if="p.understood"
            ><b class="figures">{{ p.typed }}</b> {{ p.understood }}</template
          >
          <template v-else>
            <span class="lost"
              ><b class="figures">{{ p.typed }}</b> {{ p.why || 'not understood' }}</span
            >
          </template>
        </span>
      </template>
      <span v-else class="quiet"
        >Power, voltage and current as they stand on the plate; also phases, method, speed, cos φ,
        cable. For example
        <button type="button" class="link figures" @click="line = '10 hp 460 V 3 ph'">
          10 hp 460 V 3 ph
        </button>
        or
        <button
          type="button"
          class="link figures"
          @click="line = '37 kW 400/690 V 66 A star delta'"
        >
          37 kW 400/690 V 66 A star delta
        </button></span
      >
    </p>
    <p v-if="said" class="problem" role="alert">■ {{ said }}</p>
    <template v-if="quick">
      <p v-for="p in quick.wrong" :key="p.message" class="problem" role="alert">
        ■ {{ p.message }}
      </p>
      <p v-for="p in quick.needed" :key="p.message" class="quiet">Needed: {{ p.message }}</p>
      <template v-if="quick.answer">
        <p class="sentence visually-hidden" aria-live="polite">{{ quick.answer.sentence }}</p>
        <AnswerCard
          :answer="quick.answer"
          :find-out="findOut"
          :assumed="quick.read.assumed"
          :stale="!fresh"
        />
        <div class="open">
          <Button label="Open as a starter" @click="open" />
          <span id="quick-board" class="quiet">on</span>
          <Select
            v-model="board"
            :options="boards.map((b) => ({ id: b.id, label: `${b.name} · ${b.job}` }))"
            option-label="label"
            option-value="id"
            placeholder="a board for quick answers"
            show-clear
            aria-labelledby="quick-board"
            size="small"
          />
          <span v-if="refused" class="problem" role="alert">■ {{ refused }}</span>
        </div>
      </template>
    </template>
  </section>
</template>

<style scoped>
.quick {
  width: 100%;
  display: grid;
  gap: 0.5rem;
  padding-bottom: 1.2rem;
}
.ask {
  font-size: 1.05rem;
  font-weight: 650;
}
.line {
  position: relative;
  display: flex;
  align-items: stretch;
  border: 1.5px solid var(--ink);
  background: var(--sheet);
}
.line:focus-within {
  outline: 2px solid var(--accent);
  outline-offset: 1px;
}
input,
.under {
  font-size: 1.7rem;
  line-height: 1.3;
  padding: 0.5rem 0.9rem;
}
input {
  flex: 1;
  min-width: 0;
  border: 0;
  background: none;
  position: relative;
}
input:focus-visible {
  outline: none;
}
input::placeholder {
  color: var(--quiet);
  opacity: 0.75;
}
.under {
  position: absolute;
  inset: 0 auto 0 0;
  width: 100%;
  overflow: hidden;
  white-space: pre;
  color: transparent;
}
.moved {
  display: inline-block;
}
.yes {
  border-bottom: 2px solid var(--accent);
}
.no {
  text-decoration: underline wavy var(--stop) 2px;
  text-underline-offset: 0.2em;
}
.practice {
  position: relative;
  border: 0;
  border-left: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0 0.9rem;
  cursor: pointer;
  display: flex;
  gap: 0.6rem;
  align-items: center;
  color: var(--quiet);
}
.practice .on {
  color: var(--ink);
  font-weight: 650;
  box-shadow: 0 2px 0 var(--accent);
}
.read {
  display: flex;
  flex-wrap: wrap;
  gap: 0.1rem 1.2rem;
  min-height: 1.4rem;
}
.piece {
  color: var(--quiet);
}
.piece b {
  color: var(--ink);
  font-weight: 500;
}
.lost,
.lost b,
.problem {
  color: var(--stop);
}
.open {
  display: flex;
  flex-wrap: wrap;
  gap: 0.7rem;
  align-items: center;
}
@media (max-width: 38.75em) {
  .line {
    flex-direction: column;
  }
  input,
  .under {
    font-size: 1.3rem;
  }
  .practice {
    border-left: 0;
    border-top: 1px solid var(--rule);
    min-height: 48px;
    justify-content: center;
  }
  .open > * {
    min-height: 48px;
    width: 100%;
  }
}
</style>
