/** Something that can be held up: whoever passes waits while it is shut. */
export class Gate {
  private shut: { readonly opened: Promise<void>; readonly open: () => void } | null = null;

  hold(still: boolean): void {
    if (still && !this.shut) {
      let open: () => void = () => undefined;
      const opened = new Promise<void>((resolve) => (open = resolve));
      this.shut = { opened, open };
    } else if (!still) {
      this.shut?.open();
      this.shut = null;
    }
  }

  async pass(): Promise<void> {
    while (this.shut) await this.shut.opened;
  }
}
