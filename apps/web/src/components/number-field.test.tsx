/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { fireEvent, render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { useState } from 'react';
import { NumberField } from './NumberField';

const told: string[] = [];
function Field({ decimals = 1 }: { readonly decimals?: number }) {
  const [value, setValue] = useState(10);
  return (
    <NumberField
      {...{ label: 'Zoom', unit: '%', value, min: 0, max: 200, step: 1, decimals, onChange: setValue }}
      onDragStart={() => told.push('start')}
      onDragEnd={() => told.push('end')}
    />
  );
}
const field = () => screen.getByRole<HTMLInputElement>('textbox', { name: 'Zoom, %' });
beforeEach(() => {
  told.length = 0;
  render(<Field />);
});

describe('a number field', () => {
  it.each([
    ['12.5', '12.5'],
    ['100/3', '33.3'],
    ['2*(3+4) %', '14.0'],
    ['1,5', '1.5'],
    ['900', '200.0'],
    ['-3', '0.0'],
    ['much', '10.0'],
  ])('takes what is typed: %s', async (typed, shown) => {
    await userEvent.click(field());
    await userEvent.keyboard(`${typed}{Enter}`);
    expect(field().value).toBe(shown);
    expect(document.activeElement).not.toBe(field());
  });

  it('forgets what was typed with Escape', async () => {
    await userEvent.click(field());
    await userEvent.keyboard('77{Escape}');
    expect(field().value).toBe('10.0');
  });

  it('steps with the arrows, ten times as far with Shift, a tenth with Alt', async () => {
    await userEvent.click(field());
    await userEvent.keyboard('{ArrowUp}{Shift>}{ArrowUp}{/Shift}{Alt>}{ArrowDown}{/Alt}');
    expect(field().value).toBe('20.9');
  });

  it('heeds the wheel only while it has the focus', async () => {
    fireEvent.wheel(field(), { deltaY: -100 });
    expect(field().value).toBe('10.0');
    await userEvent.click(field());
    fireEvent.wheel(field(), { deltaY: -100 });
    expect(field().value).toBe('11.0');
  });

  it('is dragged by its label, as one step', () => {
    const label = screen.getByTitle('Drag to change');
    label.setPointerCapture = () => undefined;
    fireEvent.pointerDown(label, { clientX: 100, pointerId: 1 });
    fireEvent.pointerMove(label, { clientX: 130, pointerId: 1 });
    fireEvent.pointerMove(label, { clientX: 160, pointerId: 1 });
    fireEvent.pointerUp(label, { clientX: 160, pointerId: 1 });
    expect(field().value).toBe('30.0');
    expect(told).toEqual(['start', 'end']);
  });
});
