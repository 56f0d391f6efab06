import { spotById } from '@lurn/model';
import { deleteSelected, nudge, placeSpot, editSpot, selectNeighbour } from '../../../state/edit-spots';
import { bench, setBench } from '../../../state/bench';
import type { SpotQuality } from '../../../state/spot-quality';
import { shotDocument } from '../../../state/shot';
import type { Action } from './action';

/** Placing and nudging spots. */
export function spotActions(quality: SpotQuality): Action[] {
  return [
    {
      id: 'new',
      group: 'Spots',
      label: 'New spot in the middle of the view',
      run: newSpot,
    },
    { id: 'up', group: 'Spots', label: 'Nudge up 0.1 px', run: () => nudge(0, -0.1) },
    {
      id: 'left',
      group: 'Spots',
      label: 'Nudge left 0.1 px',
      run: () => nudge(-0.1, 0),
    },
    {
      id: 'down',
      group: 'Spots',
      label: 'Nudge down 0.1 px',
      run: () => nudge(0, 0.1),
    },
    {
      id: 'right',
      group: 'Spots',
      label: 'Nudge right 0.1 px',
      run: () => nudge(0.1, 0),
    },
    {
      id: 'up1',
      group: 'Spots',
      label: 'Nudge up 1 px',
      run: () => nudge(0, -1),
    },
    {
      id: 'left1',
      group: 'Spots',
      label: 'Nudge left 1 px',
      run: () => nudge(-1, 0),
    },
    {
      id: 'down1',
      group: 'Spots',
      label: 'Nudge down 1 px',
      run: () => nudge(0, 1),
    },
    {
      id: 'right1',
      group: 'Spots',
      label: 'Nudge right 1 px',
      run: () => nudge(1, 0),
    },
    {
      id: 'spot-next',
      group: 'Spots',
      label: 'Next spot',
      run: () => selectNeighbour(1),
    },
    {
      id: 'spot-previous',
      group: 'Spots',
      label: 'Previous spot',
      run: () => selectNeighbour(-1),
    },
    {
      id: 'use',
      group: 'Spots',
      label: 'Use the spot, or leave it out',
      run: toggleUse,
    },
    {
      id: 'delete',
      group: 'Spots',
      label: 'Delete the selected spot',
      run: deleteSelected,
    },
    {
      id: 'suggest',
      group: 'Spots',
      label: 'Suggest spots',
      run: () => void quality.suggest(4, bench().rectangle),
    },
  ];
}

function newSpot(): void {
  const { camera, info } = bench();
  const middle =
    camera.scale === null ? { x: info.width / 2, y: info.height / 2 } : { x: camera.x, y: camera.y };
  setBench({ station: 'mark' });
  placeSpot(middle);
}

function toggleUse(): void {
  const document = shotDocument();
  for (const id of bench().selected) editSpot(id, { used: !spotById(document, id)?.used });
}
