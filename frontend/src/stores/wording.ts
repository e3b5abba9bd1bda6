import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'

import { client, type FieldWords, type Term } from '@/api/client'
import { useStarter } from '@/stores/starter'

/** What fields are called, words by practice, and the glossary: asked for once, before the page is drawn. */
export const useWording = defineStore('wording', () => {
  const starter = useStarter()
  const fields = shallowRef(new Map<string, FieldWords>())
  const terms = shallowRef<Term[]>([])
  const pairs = shallowRef(new Map<string, string>())
  const pattern = computed(() => new RegExp(`\\b(?:${[...pairs.value.keys()].join('|')})\\b`, 'gi'))
  const northAmerican = computed(() => starter.document.practice === 'nec')

  async function load(): Promise<void> {
    const answer = await client.GET('/api/words').catch(() => null)
    if (!answer?.data) return
    fields.value = new Map(answer.data.fields.map((f) => [f.field, f]))
    pairs.value = new Map(answer.data.vocabulary.map((p) => p as [string, string]))
    terms.value = answer.data.glossary
  }

  /** A text of the page in the words of the open starter's practice. */
  function say(text: string): string {
    if (!northAmerican.value || pairs.value.size === 0) return text
    return text.replace(pattern.value, (found) => {
      const word = pairs.value.get(found.toLowerCase()) ?? found
      return /^[A-Z]/.test(found) ? word.charAt(0).toUpperCase() + word.slice(1) : word
    })
  }
  function labelOf(path: string): string {
    const field = fields.value.get(path)
    if (!field) return path
    return northAmerican.value && field.north_american ? field.north_american : say(field.label)
  }
  /** What a field is, where it stands, usual values; empty where that is plain. */
  function helpOf(path: string): string[] {
    const f = fields.value.get(path)
    if (!f) return []
    return [
      say(f.what),
      f.where && `Where: ${say(f.where)}`,
      f.usual && (f.what || f.where) && `Usual: ${f.usual}${f.unit ? ` ${f.unit}` : ''}`,
    ].filter((x): x is string => Boolean(x))
  }

  return { fields, terms, load, say, labelOf, helpOf }
})
