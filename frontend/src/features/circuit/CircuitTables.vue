<script setup lang="ts">
import type { CircuitView } from '@/api/client'

/** Lamp truth table, contacts counted against the devices, restart, and what feeds the control. */
defineProps<{ sheet: CircuitView }>()
</script>

<template>
  <div class="two">
    <section aria-label="Lamps">
      <h3>Lamps</h3>
      <p v-if="!sheet.lamps.length" class="quiet">No lamps are asked for: see Options.</p>
      <table v-else>
        <thead>
          <tr>
            <th></th>
            <th v-for="l in sheet.lamps" :key="l.designation" scope="col">
              {{ l.designation }}<small>{{ $say(l.label) }}, {{ l.colour }}</small>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in sheet.states" :key="s">
            <th scope="row">{{ s }}</th>
            <td v-for="l in sheet.lamps" :key="l.designation">
              {{ l.lit[s] ? '● lit' : '–' }}
            </td>
          </tr>
        </tbody>
      </table>
      <h3>When the supply comes back</h3>
      <p>{{ $say(sheet.restart) }}</p>
      <p v-for="d in sheet.declared" :key="d">▲ {{ $say(d) }}</p>
      <h3>What feeds the control</h3>
      <p>{{ $say(sheet.phase_test) }}</p>
      <p v-if="sheet.mechanical.length">
        ▲ {{ sheet.mechanical.join('; ') }} can have both coils energised at once: they need a
        mechanical interlock.
      </p>
    </section>
    <section aria-label="Contacts">
      <h3>Auxiliary contacts</h3>
      <table>
        <thead>
          <tr>
            <th></th>
            <th scope="col">make</th>
            <th scope="col">break</th>
            <th scope="col">built in</th>
            <th scope="col">to add</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="a in sheet.auxiliary" :key="a.designation">
            <th scope="row">{{ a.designation }}</th>
            <td class="figures">{{ a.no }}</td>
            <td class="figures">{{ a.nc }}</td>
            <td class="figures">
              {{ a.has_no === null ? '—' : `${a.has_no} + ${a.has_nc}` }}
            </td>
            <td>{{ a.block || '–' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="sheet.crowded.length" class="bad">
        ■ More than two conductors in {{ sheet.crowded.join(', ') }}.
      </p>
      <p v-else class="quiet">No terminal has more than two conductors.</p>
      <details>
        <summary>Wires, terminal to terminal</summary>
        <table>
          <tbody>
            <tr v-for="(w, i) in sheet.wires" :key="i">
              <td class="figures">{{ w.number }}</td>
              <td class="figures">{{ w.a }}</td>
              <td class="figures">{{ w.b }}</td>
              <td>{{ w.side }}</td>
            </tr>
          </tbody>
        </table>
      </details>
    </section>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(22rem, 1fr));
  gap: 0.5rem 2rem;
}
h3 {
  font-size: 0.93rem;
  margin-top: 0.4rem;
}
table {
  border-collapse: collapse;
  font-size: 0.9rem;
}
td,
th {
  padding: 0.18rem 0.9rem 0.18rem 0;
  border-bottom: 1px solid var(--rule);
  text-align: left;
  font-weight: 400;
  vertical-align: baseline;
}
thead th {
  font-weight: 650;
}
small {
  display: block;
  font-weight: 400;
  color: var(--quiet);
}
.bad {
  color: var(--stop);
}
</style>
