<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'

import type { CircuitView, Operated } from '@/api/client'
import { usePlayer } from '@/stores/player'

/** The panel door: buttons held as long as the finger is on them, selectors, trips, the supply; and what the motor does. */
const props = defineProps<{ sheet: CircuitView; colours: Record<string, string> }>()
const player = usePlayer()

const at = (name: string) => player.frame?.positions[name] ?? 0
const buttons = computed(() =>
  props.sheet.operated.filter((o) => o.kind === 'button' || o.kind === 'emergency_stop'),
)
const selectors = computed(() => props.sheet.operated.filter((o) => o.kind === 'selector'))
const toggles = computed(() =>
  props.sheet.operated.filter((o) => ['overload', 'breaker', 'field'].includes(o.kind)),
)
const lost = ref(new Set<string>())
const swapped = ref(false)
const volts = ref(100)

function latch(o: Operated): void {
  void player.operate(`${at(o.designation) ? 'release' : 'press'} ${o.designation}`)
}
/** What can be done to it now: a breaker opened, a field contact moved, an overload tripped; or that undone. */
function verb(o: Operated): string {
  const there = at(o.designation) > 0
  return (o.kind === 'breaker' ? !there : there) ? (o.verbs[1] ?? '') : (o.verbs[0] ?? '')
}
function line(name: string): void {
  const away = lost.value.has(name)
  if (away) lost.value.delete(name)
  else lost.value.add(name)
  lost.value = new Set(lost.value)
  void player.operate(`${away ? 'restore' : 'lose'} ${name}`)
}
function swap(): void {
  swapped.value = !swapped.value
  void player.operate('swap L1 L2')
}
function voltage(percent: number): void {
  volts.value = percent
  void player.operate(`voltage ${percent}`)
}
async function again(): Promise<void> {
  lost.value = new Set()
  swapped.value = false
  volts.value = 100
  await player.again()
}
function key(e: KeyboardEvent, name: string, down: boolean): void {
  if (e.key !== ' ' && e.key !== 'Enter') return
  e.preventDefault()
  if (down && !e.repeat) player.press(name)
  else if (!down) player.release(name)
}
const PACES = [
  { pace: 0, label: 'Pause' },
  { pace: 0.1, label: '÷10' },
  { pace: 1, label: '×1' },
  { pace: 10, label: '×10' },
]
const lampOn = (name: string) => player.frame?.on.includes(name) ?? false
const said = computed(() => {
  const f = player.frame
  if (!f || f.connection === 'off') return player.motor.speed > 1 ? 'coasts' : 'off'
  return f.connection
})
</script>

<template>
  <section class="panel" aria-label="Operate">
    <div class="time" role="group" aria-label="Time">
      <span class="clock figures">{{ player.time.toFixed(2) }} s</span>
      <button
        v-for="p in PACES"
        :key="p.pace"
        type="button"
        :aria-pressed="player.pace === p.pace"
        @click="player.pace = p.pace"
      >
        {{ $say(p.label) }}
      </button>
      <button type="button" @click="player.toNext()">Next event</button>
    </div>
    <div class="motor" role="status" aria-label="Motor">
      <span
        ><b>M1</b> {{ said
        }}<template v-if="player.frame && player.frame.direction !== 'none'"
          >, {{ player.frame.direction }}</template
        ></span
      >
      <span class="bar" aria-hidden="true"
        ><span :style="{ width: `${Math.min(player.motor.speed, 100)}%` }"></span
      ></span>
      <span class="figures"
        >{{ player.motor.speed.toFixed(0) }} % · {{ player.motor.current.toFixed(1) }} × In<template
          v-if="player.motor.heat > 1"
        >
          · relay {{ player.motor.heat.toFixed(0) }} %</template
        ></span
      >
    </div>
    <div v-if="sheet.lamps.length" class="lamps" aria-label="Lamps" role="group">
      <span
        v-for="l in sheet.lamps"
        :key="l.designation"
        class="lamp"
        :class="{ lit: lampOn(l.designation) }"
        :style="{ '--lit': colours[l.designation] ?? 'var(--live)' }"
        :aria-label="`${l.designation} ${l.label}: ${lampOn(l.designation) ? 'lit' : 'dark'}`"
        ><i aria-hidden="true"></i>{{ l.designation }}<small>{{ $say(l.label) }}</small></span
      >
    </div>
    <div class="door">
      <template v-for="b in buttons" :key="b.designation">
        <button
          v-if="b.kind === 'button'"
          type="button"
          class="push"
          :class="[b.colour, { down: at(b.designation) > 0 }]"
          @pointerdown.prevent="
            (($event.target as HTMLElement).focus(), player.press(b.designation))
          "
          @pointerup="player.release(b.designation)"
          @pointerleave="player.release(b.designation)"
          @keydown="key($event, b.designation, true)"
          @keyup="key($event, b.designation, false)"
        >
          <i aria-hidden="true"></i><b>{{ b.designation }}</b
          ><small>{{ $say(b.label) }}</small>
        </button>
        <button
          v-else
          type="button"
          class="push mushroom"
          :class="{ down: at(b.designation) > 0 }"
          :aria-pressed="at(b.designation) > 0"
          @click="latch(b)"
        >
          <i aria-hidden="true"></i><b>{{ b.designation }}</b
          >{{ ' ' }}<small>{{ $say(b.label) }}</small>
        </button>
      </template>
    </div>
    <div v-for="s in selectors" :key="s.designation" class="row" role="group" :aria-label="s.label">
      <span
        ><b>{{ s.designation }}</b> {{ $say(s.label) }}</span
      >
      <span class="choices">
        <button
          v-for="(p, i) in s.positions"
          :key="p"
          type="button"
          :aria-pressed="at(s.designation) === i"
          @click="player.operate(`turn ${s.designation} ${p}`)"
        >
          {{ p }}
        </button>
      </span>
    </div>
    <div v-for="o in toggles" :key="o.designation" class="row">
      <span
        ><b>{{ o.designation }}</b> {{ $say(o.label)
        }}<em v-if="o.kind === 'overload' && at(o.designation)"> tripped</em></span
      >
      <button
        type="button"
        :aria-label="`${verb(o)} ${o.designation}`"
        @click="player.operate(`${verb(o)} ${o.designation}`)"
      >
        {{ verb(o) }}
      </button>
    </div>
    <div class="row" role="group" aria-label="Supply">
      <span>Supply</span>
      <span class="choices">
        <button
          v-for="p in sheet.feeds"
          :key="p"
          type="button"
          :aria-pressed="lost.has(p)"
          :aria-label="`${lost.has(p) ? 'Restore' : 'Lose'} ${p}`"
          @click="line(p)"
        >
          {{ lost.has(p) ? `${p} lost` : p }}
        </button>
        <button
          v-if="sheet.feeds.length > 2"
          type="button"
          :aria-pressed="swapped"
          aria-label="L1↔L2, swap"
          @click="swap"
        >
          L1↔L2
        </button>
      </span>
    </div>
    <label class="row volts">
      Voltage
      <input
        type="range"
        min="0"
        max="120"
        step="5"
        :value="volts"
        @change="voltage(Number(($event.target as HTMLInputElement).value))"
      />
      <span class="figures">{{ volts }} %</span>
    </label>
    <p v-if="player.refused" class="bad" role="alert">■ {{ player.refused }}</p>
    <Button label="Reset simulation" size="small" text @click="again" />
  </section>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 0.45rem;
  align-content: start;
  padding: 0.6rem 0.8rem;
  border-left: 1px solid var(--rule-strong);
  background: var(--paper);
  overflow: auto;
  font-size: 0.93rem;
}
.panel button:not(.push):not(.p-button) {
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  padding: 0.1rem 0.5rem;
  cursor: pointer;
  min-height: 1.8rem;
}
.panel button[aria-pressed='true']:not(.push) {
  background: var(--accent-tint);
  border-color: var(--accent);
  font-weight: 650;
}
.time,
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 0.25rem;
  align-items: center;
}
.clock {
  min-width: 5.2rem;
}
.motor {
  display: grid;
  gap: 0.15rem;
  padding: 0.3rem 0;
  border-block: 1px solid var(--rule);
}
.bar {
  height: 0.5rem;
  background: var(--tint);
  border: 1px solid var(--rule-strong);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--live);
}
.lamps,
.door {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
.lamp {
  display: grid;
  justify-items: center;
  min-width: 3.2rem;
  font-weight: 600;
}
small {
  font-weight: 400;
  font-size: 0.78rem;
  max-width: 6.4rem;
  text-align: center;
}
.lamp i {
  width: 1.3rem;
  height: 1.3rem;
  border-radius: 50%;
  border: 2px solid var(--ink);
}
.lamp.lit i {
  background: var(--lit);
  box-shadow: 0 0 0.5rem var(--lit);
}
.push {
  display: grid;
  justify-items: center;
  background: none;
  border: 0;
  padding: 0.2rem;
  cursor: pointer;
  touch-action: none;
  user-select: none;
  min-width: 4.2rem;
}
.push i {
  width: 2.1rem;
  height: 2.1rem;
  border-radius: 50%;
  border: 2px solid var(--ink);
  background: #e9e6da;
}
.push.green i {
  background: #4b8f52;
}
.push.red i,
.mushroom i {
  background: #c23a2e;
}
.push.blue i {
  background: #3f6fb5;
}
.mushroom i {
  box-shadow: 0 0 0 5px #e3b62f;
  margin: 4px;
}
.push.down i {
  transform: scale(0.82);
  outline: 3px solid var(--accent);
}
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 0.5rem;
}
.volts input {
  flex: 1;
  accent-color: var(--accent);
  min-width: 0;
}
.bad,
em {
  color: var(--stop);
  font-style: normal;
  font-weight: 650;
}
</style>
