export type Screen = "welcome" | "deposit" | "lookup" | "check" | "thanks";

/** One visit at the kiosk, dropped after two minutes without a touch. */
export class Visit {
  screen: Screen = "welcome";
  notes: Record<string, number> = {};

  static begin(): Visit {
    return new Visit();
  }

  goTo(screen: Screen): void {
    this.screen = screen;
  }

  note(notes: Record<string, number>): void {
    Object.assign(this.notes, notes);
  }
}
