import type { ReactNode } from 'react';
import type { Tracker } from '@lurn/model';
import { Hint } from '../Section';
import { MendMesh } from '../soft/MendMesh';

export const PIN_SPOTS =
  'Drag or nudge a spot where it is wrong: it is pinned there, and the program never moves a pin.';

/** How each kind of tracker is put right by hand. */
const BY_HAND: Readonly<Record<Tracker['kind'], (id: string) => ReactNode>> = {
  spot: () => <Hint>{PIN_SPOTS}</Hint>,
  surface: () => (
    <Hint>Drag a ring of its quad to where it belongs: this frame becomes a pin, and is never moved.</Hint>
  ),
  soft: (id) => <MendMesh id={id} />,
};

export const MendByHand = ({ tracker: { kind, id } }: { readonly tracker: Tracker }) => BY_HAND[kind](id);
