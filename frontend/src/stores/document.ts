/** Reading and changing a starter document by field path. The document is plain data until the server accepts it. */

export type Plain = { [key: string]: unknown }

export function valueAt(document: Plain, path: string): unknown {
  return path
    .split('.')
    .reduce<unknown>(
      (part, key) => (part && typeof part === 'object' ? (part as Plain)[key] : undefined),
      document,
    )
}

/** A copy with one field set; `undefined` takes the field out, for unknown values are left out. */
export function withValue(document: Plain, path: string, value: unknown): Plain {
  const [key, ...rest] = path.split('.') as [string, ...string[]]
  const copy = { ...document }
  if (rest.length > 0) {
    const inner = withValue((copy[key] as Plain | undefined) ?? {}, rest.join('.'), value)
    if (Object.keys(inner).length === 0) delete copy[key]
    else copy[key] = inner
  } else if (value === undefined) {
    delete copy[key]
  } else {
    copy[key] = value
  }
  return copy
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
