import { Colour, OneOf, Within } from '../checks.js';
import { CHOICES } from '../limits.js';

/** How a text looks. */
export class TextStyle {
  @OneOf(CHOICES.font)
  readonly font!: (typeof CHOICES.font)[number];
  @OneOf(CHOICES.weight)
  readonly weight!: (typeof CHOICES.weight)[number];
  @Colour()
  readonly colour!: string;
  @OneOf(CHOICES.align)
  readonly align!: (typeof CHOICES.align)[number];
  /** Width of the line round its letters, a share of their size; 0: none. */
  @Within([0, 0.5])
  readonly outline!: number;
  @Colour()
  readonly outlineColour!: string;
}

export const NEW_TEXT_STYLE: TextStyle = {
  font: 'Hanken Grotesk',
  weight: 700,
  colour: '#ffffff',
  align: 'middle',
  outline: 0,
  outlineColour: '#000000',
};
