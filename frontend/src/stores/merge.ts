/** Two changes of one document that were made without knowing of each other, put together field by field. */
import type { Draft } from '@/stores/document'

type Plain = { [key: string]: unknown }

/** A field that both changed, each to something else. */
export type Clash = { path: string; before: unknown; mine: unknown; theirs: unknown }
export type Merged = { document: Draft; clashes: Clash[]; joined: string[] }

const isPart = (value: unknown): value is Plain =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)

/** Every field of a document by its path; lists are one field. */
export function fieldsOf(document: Draft): Map<string, unknown> {
  const found = new Map<string, unknown>()
  for (const [key, value] of Object.entries(document as Plain)) {
    if (!isPart(value)) found.set(key, value)
    else for (const [field, inner] of Object.entries(value)) found.set(`${key}.${field}`, inner)
  }
  return found
}

function documentOf(fields: Map<string, unknown>): Draft {
  const made: Plain = {}
  for (const [path, value] of fields) {
    if (value === undefined) continue
    const [part, field] = path.split('.') as [string, string?]
    if (field === undefined) made[part] = value
    else made[part] = { ...(made[part] as Plain | undefined), [field]: value }
  }
  return made as Draft
}

/**
 * What only one side changed is taken from that side; what both changed alike is no clash. Where they clash, theirs stands in the
 * document until somebody chooses.
 *
 * @param base the document that mine was made on
 * @param mine as it is on this page
 * @param theirs as it is saved now
 */
export function merge(base: Draft, mine: Draft, theirs: Draft): Merged {
  const [before, own, other] = [base, mine, theirs].map(fieldsOf) as [
    Map<string, unknown>,
    Map<string, unknown>,
    Map<string, unknown>,
  ]
  const whole = new Map(other)
  const clashes: Clash[] = []
  const joined: string[] = []
  for (const path of new Set([...before.keys(), ...own.keys(), ...other.keys()])) {
    const [was, ours, their] = [before.get(path), own.get(path), other.get(path)]
    if (same(ours, was) || same(ours, their)) continue
    if (same(their, was)) {
      whole.set(path, ours)
      joined.push(path)
    } else clashes.push({ path, before: was, mine: ours, theirs: their })
  }
  return { document: documentOf(whole), clashes, joined }
}

/** A document with the choices made for the fields that clashed. */
export function chosen(document: Draft, clashes: Clash[], mine: ReadonlySet<string>): Draft {
  const fields = fieldsOf(document)
  for (const c of clashes) fields.set(c.path, mine.has(c.path) ? c.mine : c.theirs)
  return documentOf(fields)
}
