import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import {
  client,
  problemsOf,
  type Design,
  type Figure,
  type Finding,
  type Override,
  type Problem,
  type StarterDocument,
  type StarterOut,
} from '@/api/client'
import { valueAt, withValue, type Draft, type FieldPath, type ValueAt } from '@/stores/document'
import { latest } from '@/stores/asked'

export type SaveState = 'saved' | 'saving' | 'refused' | 'offline' | 'stale'

const draftKey = (id: number) => `volmek.draft.${id}`

/** One open starter: what is typed, what the server computed from it, and whether it is saved. */
export const useStarter = defineStore('starter', () => {
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

  let version = 0
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
    version = out.version
    saved.value = out.saved
    design.value = out.design ?? null
    problems.value = out.problems
    state.value = 'saved'
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
      return
    }
    id.value = data.id
    place.value = { boardId: data.board_id, board: data.board, job: data.job }
    document.value = data.document
    const draft = localStorage.getItem(draftKey(data.id))
    accept(data)
    past = []
    future = []
    lastPath = null
    count()
    workingId.value = null
    workingWanted = false
    figures.value = {}
    selected.value = 'motor'
    if (draft) {
      document.value = JSON.parse(draft) as Draft
      void send()
    }
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
    localStorage.setItem(draftKey(id.value), JSON.stringify(document.value))
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
        body: { version, document: sent as StarterDocument },
      })
      if (data) {
        if (sent === document.value) accept(data)
        else version = data.version
      } else {
        problems.value = problemsOf(error)
        state.value = response.status === 409 ? 'stale' : 'refused'
      }
    } catch {
      state.value = 'offline'
    }
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

  async function restore(revisionId: number): Promise<void> {
    const { data, error } = await client.POST('/api/starters/{starter_id}/restore', {
      params: { path: { starter_id: id.value } },
      body: { version, revision_id: revisionId },
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
    undoDepth,
    redoDepth,
    load,
    set,
    change,
    settle,
    undo,
    redo,
    send,
    override,
    setOverride,
    restore,
    takeCatalogue,
    discard,
    openWorking,
  }
})
