import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { forgetAnswers } from '@/stores/installed'
import { client, onSignedOut, problemsOf, type Me, type Problem, type Role } from '@/api/client'

const ROLES: Role[] = ['reads', 'works', 'designs', 'administers']
/** Each role as it follows a name: "K. Ives designs". */
export const ROLE_WORDS: Record<Role, string> = {
  reads: 'reads',
  works: 'works at the panel',
  designs: 'designs',
  administers: 'administers',
}

/** Who works here: one person alone, or somebody of a workshop who has signed in. */
export const useMe = defineStore('me', () => {
  const workshop = ref(false)
  const encrypted = ref(false)
  const name = ref('')
  const role = ref<Role | null>(null)
  /** Signed out while a page was open: it stays, under the sign-in. */
  const lost = ref(false)
  const ready = computed(() => !workshop.value || name.value !== '')

  function take(me: Me): void {
    workshop.value = me.workshop
    encrypted.value = me.encrypted
    name.value = me.name
    role.value = me.role ?? null
  }
  async function load(): Promise<void> {
    const answer = await client.GET('/api/me').catch(() => null)
    if (answer?.data) take(answer.data)
  }
  /** Whether a role is enough; one person alone may everything. */
  function may(needed: Role): boolean {
    if (!workshop.value) return true
    return role.value !== null && ROLES.indexOf(role.value) >= ROLES.indexOf(needed)
  }

  /** Sign in; the page of somebody else begins anew, one's own goes on where it was. */
  async function signIn(as: string, password: string): Promise<Problem[]> {
    const before = name.value
    const { data, error } = await client.POST('/api/sign-in', { body: { name: as, password } })
    if (!data) return problemsOf(error)
    if (before !== data.name) await forgetAnswers()
    if (lost.value && before !== data.name) location.reload()
    take(data)
    lost.value = false
    return []
  }
  async function signOut(): Promise<void> {
    await client.DELETE('/api/sign-in')
    await forgetAnswers()
    location.assign('/')
  }
  onSignedOut(() => {
    if (workshop.value && name.value) lost.value = true
  })

  return { workshop, encrypted, name, role, lost, ready, load, may, signIn, signOut, take }
})
