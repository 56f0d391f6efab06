/** The last answer for each of some things, as long as it is asked for by the same key: what is dear is worked out once. */
export class Remembered<Of extends object, Key, Answer> {
  private readonly last = new WeakMap<Of, { readonly key: Key; readonly answer: Answer }>();

  get(of: Of, key: Key, work: () => Answer): Answer {
    const known = this.last.get(of);
    if (known && known.key === key) return known.answer;
    const answer = work();
    this.last.set(of, { key, answer });
    return answer;
  }
}
