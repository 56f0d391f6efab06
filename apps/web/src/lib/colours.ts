/**
 * Data colours for spots: eight that people with any kind of colour vision can tell apart (after Okabe and Ito
 * 2008, "Color universal design"), lightened or darkened to be read on either theme. A name always goes with them.
 */
export const SPOT_COLOURS = [
  '#56b4e9',
  '#e69f00',
  '#cc79a7',
  '#f0e442',
  '#2bb58c',
  '#e5703a',
  '#b9a7ff',
  '#d9d5c8',
];

export const spotColour = (index: number) => SPOT_COLOURS[index % SPOT_COLOURS.length];
