import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { ShotOrder } from '../lib/shot-list';

/** How the shots are listed, as it is kept in this browser. */
interface ShotListState {
  readonly order: ShotOrder;
  readonly down: boolean;
  readonly large: boolean;
}

export const useShotList = create<ShotListState>()(
  persist((): ShotListState => ({ order: 'date', down: true, large: true }), { name: 'lurn.shots' }),
);
