/** One thing that can be done on the Bench, with its key. */
export interface Action {
  readonly id: string;
  readonly group: 'Play' | 'Step' | 'Range' | 'Spots' | 'Track' | 'Repair' | 'Steady' | 'Look' | 'Work';
  readonly label: string;
  /** As react-hotkeys-hook takes it. */
  readonly keys: string;
  /** As it is printed. */
  readonly shown: string;
  readonly run: () => void;
}
