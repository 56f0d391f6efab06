import type { ComponentType } from 'react';
import type { AnySurface } from '@lurn/model';
import { SoftSurfaces } from '../soft/SoftSurfaces';
import { Surfaces } from '../Surfaces';

/** What Mark offers of each kind of surface; that of the selected one comes first. */
export const SURFACE_PANELS: readonly { readonly kind: AnySurface['kind']; readonly Panel: ComponentType }[] =
  [
    { kind: 'surface', Panel: Surfaces },
    { kind: 'soft', Panel: SoftSurfaces },
  ];
