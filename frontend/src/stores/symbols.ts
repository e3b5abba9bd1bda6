import { defineStore } from 'pinia'
import { shallowRef } from 'vue'

import { client, type Drawing } from '@/api/client'

/** The drawings that designs refer to by name, fetched once. */
export const useSymbols = defineStore('symbols', () => {
  const symbols = shallowRef<Record<string, Drawing>>({})
  void client.GET('/api/symbols').then(({ data }) => (symbols.value = data?.symbols ?? {}))
  return { symbols }
})
