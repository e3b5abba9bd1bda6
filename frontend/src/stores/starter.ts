import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import {
  client,
  problemsOf,
  type Design,
  type Figure,
  type Finding,
  type CircuitEdit,
  type Override,
  type Problem,
  type StarterDocument,
  type StarterOut,
} from '@/api/client'
import { valueAt, withValue, type Draft, type FieldPath, type ValueAt } from '@/stores/document'
import { latest } from '@/stores/asked'
import { useMe } from '@/stores/me'
import { chosen, merge, type Clash } from '@/stores/merge'

export type SaveState = 'saved' | 'saving' | 'refused' | 'offline' | 'stale'

const draftKey = (id: number) => `volmek.draft.${id}`

/** What is typed and not yet saved, with the state that it was made on: without that nobody can say what somebody else changed. */
type Unsent = { version: number; base: Draft; document: Draft }

function draftOf(id: number): Unsent | null {
  const text = localStorage.getItem(draftKey(id))
  if (!text) return null
  const found = JSON.parse(text) as Unsent | Draft
  return 'base' in found ? found : { version: 0, base: {}, document: found as Draft }
}

/** One open starter: what is typed, what the server computed from it, and whether it is saved. */
export const useStarter = defineStore('starter', () => {
  const me = useMe()
  const id = ref(0)
  const place = ref({ boardId: 0, board: '', job: '' })
  const document = shallowRef<Draft>({})
  const design = shallowRef<Design | null>(null)
  const problems = ref<Problem[]>([])
  const state = ref<SaveState>('saved')
  const saved = ref('')
  const workingId = ref<string | null>(null)
  const figures = shallowRef<Record<string, Figure>>({})
  let workingWanted = false
  const selected = ref('motor')
  const loadError = ref('')
  /** Why nothing could be saved, in the server's words; empty where it does not answer at all. */
  const fault = ref('')
  /** Fields that were changed here and elsewhere, each to something else, and those of mine that were joined to theirs. */
  const clashes = shallowRef<Clash[]>([])
  const joined = ref<string[]>([])

  const version = ref(0)
  let past: Draft[] = []
  let future: Draft[] = []
  let lastPath: string | null = null
  let sending = false
  let waiting = false
  const undoDepth = ref(0)
  const redoDepth = ref(0)

  const findings = computed<Finding[]>(() => design.value?.findings ?? [])
  const fresh = computed(() => problems.value.every((p) => p.missing) && state.value !== 'refused')
  /** What was typed wrong, by field; what is only missing is no fault. */
  const problemAt = computed(
    () => new Map(problems.value.filter((p) => !p.missing).map((p) => [p.field, p.message])),
  )
  const neededAt = computed(
    () => new Set(problems.value.filter((p) => p.missing).map((p) => p.field)),
  )
  /** The document as the server keeps it: units understood, values in the fields that they belong to. */
  let kept: Draft = {}
  let left = true

  function accept(out: StarterOut): void {
    version.value = out.version
    saved.value = out.saved
    design.value = out.design ?? null
    problems.value = out.problems
    state.value = 'saved'
    fault.value = ''
    kept = out.document
    adopt()
    localStorage.removeItem(draftKey(out.id))
    if (workingWanted && out.design) void loadWorking()
  }

  /** The workings are large and seldom looked at: fetched while somebody does. */
  const newestWorking = latest()
  async function loadWorking(): Promise<void> {
    const answer = await newestWorking(
      client.GET('/api/starters/{starter_id}/figures', {
        params: { path: { starter_id: id.value } },
      }),
    )
    if (answer?.data) figures.value = answer.data.figures
  }

  const newestStarter = latest()
  async function load(starterId: number): Promise<void> {
    loadError.value = ''
    const answer = await newestStarter(
      client.GET('/api/starters/{starter_id}', { params: { path: { starter_id: starterId } } }),
    )
    if (!answer) return
    const { data, error } = answer
    if (!data) {
      loadError.value = problemsOf(error)[0]?.message ?? ''
      // A starter that is gone takes along what was typed for it; one in the bin comes back with what is saved.
      if (answer.response.status === 404) localStorage.removeItem(draftKey(starterId))
      return
    }
    id.value = data.id
    place.value = { boardId: data.board_id, board: data.board, job: data.job }
    document.value = data.document
    const draft = draftOf(data.id)
    clashes.value = []
    joined.value = []
    accept(data)
    past = []
    future = []
    lastPath = null
    count()
    workingId.value = null
    workingWanted = false
    figures.value = {}
    selected.value = 'motor'
    if (draft) putTogether(draft, data)
  }

  let held: Unsent | null = null

  /** A draft and what is saved now: the same state sends it as it is, another one is merged field by field. */
  function putTogether(draft: Unsent, now: StarterOut): void {
    version.value = now.version
    kept = now.document
    if (draft.version === now.version) {
      document.value = draft.document
      void send()
      return
    }
    const merged = merge(draft.base, draft.document, now.document)
    document.value = merged.document
    clashes.value = merged.clashes
    joined.value = merged.joined
    left = true
    if (merged.clashes.length === 0) {
      void send()
      return
    }
    state.value = 'stale'
    held = draft
    localStorage.setItem(draftKey(now.id), JSON.stringify(draft))
  }

  /** Each field that clashed is chosen: mine for those named, theirs for the others. */
  function choose(mine: ReadonlySet<string>): void {
    document.value = chosen(document.value, clashes.value, mine)
    clashes.value = []
    void send()
  }

  function count(): void {
    undoDepth.value = past.length
    redoDepth.value = future.length
  }

  /** Change one field; typing on in the same field is one step of undo. */
  function set<P extends FieldPath>(path: P, value: ValueAt<P>): void {
    if (valueAt(document.value, path) === value) return
    change(withValue(document.value, path, value), path)
  }

  function change(next: Draft, path: FieldPath | null): void {
    if (!me.may('designs')) {
      // Shown again as it is; the page says that nothing can be changed here.
      document.value = { ...document.value }
      return
    }
    if (path === null || path !== lastPath) past.push(document.value)
    if (past.length > 200) past.shift()
    future = []
    lastPath = path
    left = path === null
    count()
    document.value = next
    void send()
  }

  /** The field was left: the next change is a step of its own, and what was typed is shown as it was understood. */
  function settle(): void {
    lastPath = null
    left = true
    if (state.value === 'saved') adopt()
  }

  function adopt(): void {
    if (left) document.value = kept
  }

  function undo(): void {
    const back = past.pop()
    if (back) travel(back, future)
  }

  function redo(): void {
    const forth = future.pop()
    if (forth) travel(forth, past)
  }

  function travel(to: Draft, keep: Draft[]): void {
    keep.push(document.value)
    document.value = to
    lastPath = null
    left = true
    count()
    void send()
  }

  /** Send what is typed; one request at a time, and the newest document last. */
  async function send(): Promise<void> {
    if (held && clashes.value.length > 0) {
      // What clashes is chosen first; until then all that is typed is kept with the state that it was made on.
      const all = new Set(clashes.value.map((c) => c.path))
      const whole = { ...held, document: chosen(document.value, clashes.value, all) }
      localStorage.setItem(draftKey(id.value), JSON.stringify(whole))
      return
    }
    const draft: Unsent = { version: version.value, base: kept, document: document.value }
    localStorage.setItem(draftKey(id.value), JSON.stringify(draft))
    state.value = 'saving'
    if (sending) {
      waiting = true
      return
    }
    sending = true
    do {
      waiting = false
      await put()
    } while (waiting)
    sending = false
  }

  async function put(): Promise<void> {
    const sent = document.value
    try {
      const { data, error, response } = await client.PUT('/api/starters/{starter_id}', {
        params: { path: { starter_id: id.value } },
        body: { version: version.value, document: sent as StarterDocument },
      })
      if (data) {
        if (sent === document.value) accept(data)
        else {
          version.value = data.version
          kept = data.document
        }
      } else if (response.status === 409) await elsewhere()
      else if (response.status >= 500 || response.status === 401) {
        fault.value = problemsOf(error)[0]?.message ?? ''
        state.value = 'offline'
      } else {
        problems.value = problemsOf(error)
        state.value = 'refused'
      }
    } catch {
      fault.value = ''
      state.value = 'offline'
    }
  }

  /** It was changed elsewhere since: what is saved there and what is typed here are put together. */
  async function elsewhere(): Promise<void> {
    const mine: Unsent = { version: version.value, base: kept, document: document.value }
    const { data, error } = await client.GET('/api/starters/{starter_id}', {
      params: { path: { starter_id: id.value } },
    })
    if (!data) {
      problems.value = problemsOf(error)
      state.value = 'refused'
      return
    }
    design.value = data.design ?? null
    problems.value = data.problems
    putTogether(mine, data)
  }

  /** Somebody else has changed it, and nothing is on its way from here: shown as it is now; false where something was typed meanwhile. */
  async function renew(): Promise<boolean> {
    const { data } = await client.GET('/api/starters/{starter_id}', {
      params: { path: { starter_id: id.value } },
    })
    if (!data || data.id !== id.value || state.value !== 'saved' || !left) return false
    document.value = data.document
    accept(data)
    lastPath = null
    return true
  }

  /** A change that rewires the panel: made, and what it means is shown with the way back. */
  const explained = shallowRef<Draft | null>(null)
  function rewire<P extends FieldPath>(path: P, value: ValueAt<P>): void {
    if (valueAt(document.value, path) === value) return
    explained.value = kept
    change(withValue(document.value, path, value), null)
  }

  function override(role: string): Override | undefined {
    return (document.value.overrides ?? []).find((o) => o.role === role)
  }

  /** Choose against the computed value, or take the choice back with `null`. */
  function setOverride(role: string, next: Override | null): void {
    const others = (document.value.overrides ?? []).filter((o) => o.role !== role)
    const all = next ? [...others, next] : others
    change(withValue(document.value, 'overrides', all.length > 0 ? all : undefined), null)
  }

  /** Lines of the control circuit as they are in the panel; none is the generated circuit. */
  function setCircuitEdits(next: CircuitEdit[]): void {
    change(withValue(document.value, 'circuit_edits', next.length > 0 ? next : undefined), null)
  }

  /** Rules that are proved beside the shipped ones. */
  function setOwnRules(next: string[]): void {
    change(withValue(document.value, 'own_rules', next.length > 0 ? next : undefined), null)
  }

  async function restore(revisionId: number): Promise<void> {
    const { data, error } = await client.POST('/api/starters/{starter_id}/restore', {
      params: { path: { starter_id: id.value } },
      body: { version: version.value, revision_id: revisionId },
    })
    if (data) {
      past.push(document.value)
      future = []
      settle()
      count()
      document.value = data.document
      accept(data)
    } else {
      problems.value = problemsOf(error)
    }
  }

  /** Let go of the devices that the design kept, and pick from the catalogue as it is now. */
  async function takeCatalogue(): Promise<void> {
    const { data, error } = await client.POST('/api/starters/{starter_id}/catalogue-now', {
      params: { path: { starter_id: id.value } },
    })
    if (data) accept(data)
    else problems.value = problemsOf(error)
  }

  /** Throw away what the server refused and show again what is saved. */
  async function discard(): Promise<void> {
    localStorage.removeItem(draftKey(id.value))
    await load(id.value)
  }

  function openWorking(figureId: string | null): void {
    workingId.value = workingId.value === figureId ? null : figureId
    workingWanted = workingId.value !== null
    if (workingWanted) void loadWorking()
  }

  return {
    id,
    place,
    document,
    design,
    problems,
    problemAt,
    neededAt,
    explained,
    rewire,
    findings,
    fresh,
    state,
    saved,
    workingId,
    figures,
    loadWorking,
    selected,
    loadError,
    fault,
    clashes,
    joined,
    choose,
    undoDepth,
    redoDepth,
    load,
    renew,
    version,
    set,
    change,
    settle,
    undo,
    redo,
    send,
    override,
    setOverride,
    setCircuitEdits,
    setOwnRules,
    restore,
    takeCatalogue,
    discard,
    openWorking,
  }
})
