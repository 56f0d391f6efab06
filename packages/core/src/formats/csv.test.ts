import { readRows, writeRow } from './csv.js';

it('no cell is taken for a formula by who opens the table, and all come back as they were', () => {
  const cells = ['=CMD()', "'=x", '+A', '@b', '-A', '-3.5', '+2', 'plain', "it's", '-'];
  const text = writeRow(cells);
  expect(text).toBe("'=CMD(),''=x,'+A,'@b,'-A,-3.5,+2,plain,it's,'-");
  expect(readRows(text).rows[0].cells).toEqual(cells);
});
