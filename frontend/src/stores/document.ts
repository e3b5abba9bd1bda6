/** Reading and changing a starter document by field path. Paths and values have the types that the server generates. */
import type { StarterDocument } from '@/api/client'

type Whole = Required<StarterDocument>
/** Parts of the document that hold fields of their own; the rest stands at its top. */
type PartName = {
  [K in keyof Whole]: Whole[K] extends readonly unknown[] | string | number | null ? never : K
}[keyof Whole]
type Fields<K extends PartName> = keyof Required<Whole[K]> & string

/** Where a field stands: `motor.rated_power_kw`, or `tag` at the top. A path that no document has does not compile. */
export type FieldPath =
  Exclude<keyof Whole, PartName> | { [K in PartName]: `${K}.${Fields<K>}` }[PartName]

/** On the page a field holds its value, or the words typed into it until the server has said what is wrong with them. */
type Typed<T> = NonNullable<T> | (NonNullable<T> extends number ? string : never)

/** What stands at a path; undefined where it is not known. */
export type ValueAt<P extends FieldPath> = P extends `${infer K extends PartName}.${infer F}`
  ? F extends keyof Whole[K]
    ? Typed<Whole[K][F]> | undefined
    : never
  : P extends keyof Whole
    ? Typed<Whole[P]> | undefined
    : never

/** A document as it is on the page. */
export type Draft = {
  [K in keyof Whole]?: K extends PartName
    ? { [F in Fields<K>]?: ValueAt<`${K}.${F}` & FieldPath> }
    : Whole[K]
}

type Plain = { [key: string]: unknown }

/** A field that the server names: it knows no others than those of the document. */
export const fieldOf = (named: string): FieldPath => named as FieldPath

export function valueAt<P extends FieldPath>(document: Draft, path: P): ValueAt<P> {
  const [part, field] = path.split('.') as [keyof Draft, string?]
  const value = document[part]
  return (field === undefined ? value : (value as Plain | undefined)?.[field]) as ValueAt<P>
}

/** A copy with one field set; `undefined` takes the field out, for unknown values are left out. */
export function withValue<P extends FieldPath>(document: Draft, path: P, value: ValueAt<P>): Draft {
  const [part, field] = path.split('.') as [string, string?]
  if (field === undefined) return put(document, part, value)
  const inner = put(((document as Plain)[part] as Plain | undefined) ?? {}, field, value)
  return put(document, part, Object.keys(inner).length > 0 ? inner : undefined)
}

function put<T extends object>(whole: T, key: string, value: unknown): T {
  const copy = { ...whole } as Plain
  if (value === undefined) delete copy[key]
  else copy[key] = value
  return copy as T
}

/**
 * What was typed into a number field: a number where it is one, with point or comma; nothing where the field is
 * empty; else the words themselves, for the server to say what is wrong with them.
 */
export function typedNumber(text: string): number | string | undefined {
  const trimmed = text.trim()
  if (trimmed === '') return undefined
  const plain = /^[+-]?\d+,\d+$/.test(trimmed) ? trimmed.replace(',', '.') : trimmed
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain) ? Number(plain) : trimmed
}
