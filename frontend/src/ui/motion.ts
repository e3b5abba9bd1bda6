/** How the page moves to something: at once where less motion is asked for. */
export function motion(): ScrollBehavior {
  return matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth'
}
