import { defineStore } from 'pinia'
import { computed, watch } from 'vue'

import { client } from '@/api/client'
import { stageOf, groupOf, type GroupName } from '@/app/stages'
import { useAsked } from '@/stores/asked'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'

export interface GroupState {
  verdict: 'stop' | 'attention' | 'info' | 'fine' | ''
  words: string
}

/** How far each group of the open starter is: findings where they are mended, counts of build and test, open items. */
export const useProgress = defineStore('progress', () => {
  const starter = useStarter()
  const journal = useJournal()
  const { data, ask } = useAsked(() =>
    starter.id === 0
      ? null
      : client.GET('/api/starters/{starter_id}/progress', {
          params: { path: { starter_id: starter.id } },
        }),
  )
  watch(() => [starter.id, starter.saved, journal.arrived], ask, { immediate: true })

  const points = computed(() => data.value?.points ?? [])

  /** Findings of a group, the gravest counted. */
  function found(group: GroupName): GroupState {
    const of = (severity: string) =>
      starter.findings.filter((f) => f.severity === severity && groupOf(stageOf(f.field)) === group)
        .length
    const stops = of('stop')
    const warnings = of('attention')
    if (stops) return { verdict: 'stop', words: `${stops} stop${stops > 1 ? 's' : ''}` }
    if (warnings)
      return { verdict: 'attention', words: `${warnings} warning${warnings > 1 ? 's' : ''}` }
    return { verdict: 'fine', words: 'no warnings' }
  }

  const states = computed<Record<GroupName, GroupState>>(() => {
    const none: GroupState = { verdict: '', words: 'not begun' }
    if (!starter.design) {
      const missing = starter.problems.filter((p) => p.missing).length
      const incomplete: GroupState = {
        verdict: missing ? 'info' : 'stop',
        words: missing ? `${missing} needed` : 'not accepted',
      }
      return { size: incomplete, circuit: none, build: none, test: none, documents: none }
    }
    const p = data.value?.progress
    const open = points.value.length
    const sealed = data.value?.sealed ?? 0
    return {
      size: found('size'),
      circuit: found('circuit'),
      build: p
        ? {
            verdict: p.laid === p.wires && p.stages_done === p.stages ? 'fine' : '',
            words: `${p.laid} of ${p.wires} wires, ${p.stages_done} of ${p.stages} stages`,
          }
        : none,
      test: p
        ? {
            verdict: open ? 'attention' : p.measured === p.wanted ? 'fine' : '',
            words:
              `${p.measured} of ${p.wanted} recorded` +
              (open ? `, ${open} open item${open > 1 ? 's' : ''}` : ''),
          }
        : none,
      documents: sealed
        ? { verdict: 'fine', words: 'sealed as built' }
        : { verdict: '', words: 'not sealed' },
    }
  })
  /** The same in a few characters, for the tab. */
  const brief = computed<Record<GroupName, string>>(() => {
    const p = data.value?.progress
    const count = (g: GroupName) => states.value[g].words.split(' ')[0] ?? ''
    const of = (g: GroupName) => (/^\d/.test(states.value[g].words) ? count(g) : '')
    return {
      size: of('size'),
      circuit: of('circuit'),
      build: p && starter.design ? `${p.laid}/${p.wires}` : '',
      test: p && starter.design ? `${p.measured}/${p.wanted}` : '',
      documents: '',
    }
  })

  return { points, states, brief }
})
