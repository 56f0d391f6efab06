/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { bench, setBench } from '../../state/bench';
import { useKeymap } from '../../state/keymap';
import { openBench } from '../../testing/open-bench';
import type { Action } from './keys';
import { useKeys } from './keys/useKeys';
import { KeySheet } from './KeySheet';

/** Keys that do something, on the page and on the sheet on which they are changed. */

const done: string[] = [];
const action = (id: Action['id'], label: string): Action => ({
  id,
  label,
  group: 'Work',
  run: () => done.push(id),
});
const actions = [action('track-end', 'Track to the end'), action('fit', 'Fit the view')];

function Page({ sheet = true }: { readonly sheet?: boolean }) {
  useKeys(actions);
  return (
    <>
      <input aria-label="Name" />
      <input aria-label="Switch" type="checkbox" />
      <button type="button">Other</button>
      {sheet && <KeySheet actions={actions} />}
    </>
  );
}
beforeEach(() => {
  done.length = 0;
  localStorage.clear();
  useKeymap.setState({ changes: {} });
  openBench();
  setBench({ keySheet: true });
});

describe('a key', () => {
  beforeEach(() => render(<Page sheet={false} />));

  it('works whatever has the focus, but not while something is typed', async () => {
    const user = userEvent.setup();
    await user.keyboard('t');
    await user.click(screen.getByRole('button', { name: 'Other' }));
    await user.keyboard('t');
    await user.click(screen.getByRole('checkbox'));
    await user.keyboard('t');
    expect(done).toHaveLength(3);
    await user.click(screen.getByRole('textbox', { name: 'Name' }));
    await user.keyboard('t');
    expect(done).toHaveLength(3);
  });
});

describe('the sheet', () => {
  beforeEach(() => render(<Page />));
  const change = (label: string) =>
    userEvent.click(screen.getByRole('button', { name: `Change the key of: ${label}` }));

  it('changes a key, which is kept, and gives it back', async () => {
    await change('Track to the end');
    await userEvent.keyboard('ö');
    expect(useKeymap.getState().changes).toEqual({ 'track-end': ['Ö'] });
    expect(localStorage.length).toBe(1);
    await userEvent.click(screen.getByRole('button', { name: 'Track to the end: back to the first key' }));
    expect(useKeymap.getState().changes).toEqual({});
  });

  it('says who loses a key that was taken', async () => {
    await change('Fit the view');
    await userEvent.keyboard('t');
    expect(screen.getByText('"Track to the end" has lost T.')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'All keys as they were first' }));
    expect(useKeymap.getState().changes).toEqual({});
  });

  it('lets nothing happen on the Bench meanwhile; Escape keeps the old key, and then closes', async () => {
    await userEvent.keyboard('t');
    await change('Fit the view');
    await userEvent.keyboard('{Escape}');
    expect(useKeymap.getState().changes).toEqual({});
    expect(bench().keySheet).toBe(true);
    await userEvent.keyboard('{Escape}');
    expect(bench().keySheet).toBe(false);
    expect(done).toEqual([]);
  });
});
