import type { InjectionKey } from 'vue'

/** Takes the user to the field of the document that is named. */
export const MEND: InjectionKey<(field: string) => unknown> = Symbol('mend')
