import { ref } from 'vue'

/** Counts how often the page has changed its inks, for what does not take them from the style sheet. */
export const painted = ref(0)
