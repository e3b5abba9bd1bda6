export {}

declare module 'vue' {
  interface ComponentCustomProperties {
    /** A text of the core in the words of the starter's practice. */
    $say: (text: string) => string
  }
}
