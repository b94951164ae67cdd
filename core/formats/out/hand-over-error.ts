/** A level cannot be handed over like this, with what to do instead. */
export class HandOverError extends Error {
  override name = 'HandOverError'
}
