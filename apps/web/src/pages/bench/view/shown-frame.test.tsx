/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, render, screen } from '@testing-library/react';
import { IDENTITY } from '@lurn/core/geometry';
import { changeDocument, type ShotDocument } from '@lurn/model';
import { setBench } from '../../../state/bench';
import { edit } from '../../../state/shot';
import { openBench } from '../../../testing/open-bench';
import { AreaMarks } from './AreaMarks';

/** What lies on a picture belongs to the frame that is seen, not to the one that is asked for. */

const square = (x: number) => [[x, 10], [x + 20, 10], [x + 20, 30], [x, 30]] as [number, number][]; // prettier-ignore
const area = {
  ...{ id: 'a', name: 'Guest', kind: 'ignore', smooth: false, rides: '' },
  keys: [
    { frame: 0, shape: square(10) },
    { frame: 30, shape: square(310) },
  ],
} as unknown as ShotDocument['areas'][number];

it('marks wait for the picture that they belong to', () => {
  openBench();
  edit((s) => changeDocument(s, { areas: [area] }));
  render(
    <svg>
      <AreaMarks toPane={IDENTITY} handles={false} />
    </svg>,
  );
  const place = () =>
    screen.getByTestId('areas').querySelector('path[d^="M"]:not(defs path)')!.getAttribute('d');
  expect(place()).toMatch(/^M10\.0 10\.0/);
  act(() => setBench({ frame: 30 }));
  expect(place()).toMatch(/^M10\.0 10\.0/);
  act(() => setBench({ shown: 30 }));
  expect(place()).toMatch(/^M310\.0 10\.0/);
});
