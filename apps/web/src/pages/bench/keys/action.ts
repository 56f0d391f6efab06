import type { ActionId } from '../../../state/keymap';

/** One thing that can be done on the Bench; its keys are found by its id. */
export interface Action {
  readonly id: ActionId;
  readonly group: 'Play' | 'Step' | 'Range' | 'Spots' | 'Track' | 'Repair' | 'Steady' | 'Look' | 'Work';
  readonly label: string;
  readonly run: () => void;
}
