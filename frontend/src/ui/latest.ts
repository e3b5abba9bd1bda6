/**
 * For questions that are asked again before the last one is answered: an answer that a newer question has overtaken
 * comes out as null, whichever of the two the server was quicker with.
 */
export function latest() {
  let asked = 0
  return async <T>(question: Promise<T>): Promise<T | null> => {
    const mine = ++asked
    const answer = await question
    return mine === asked ? answer : null
  }
}
