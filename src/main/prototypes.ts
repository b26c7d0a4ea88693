/**
 * Lets nothing be added to what all objects share: a key from outside that reached it would speak in every request of the
 * process. Input is refused before that; this holds where a library takes another way. They are sealed and not frozen:
 * libraries give objects of theirs a `toString`, which a frozen prototype forbids.
 */
export function sealPrototypes(): void {
  for (const shared of [
    Object,
    Array,
    Function,
    String,
    Number,
    Boolean,
    Map,
    Set,
    Date,
    RegExp,
    Promise,
    Error,
  ])
    Object.seal(shared.prototype);
}
