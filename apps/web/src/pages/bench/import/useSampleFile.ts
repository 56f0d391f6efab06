import { useMemo, useState } from 'react';
import {
  guessMapping,
  readSampleTable,
  samplesFromTable,
  type ColumnMapping,
  type ImportedSpot,
  type SampleTable,
} from '@lurn/core';
import { useBenchParts } from '../../../state/bench';

/** No file of samples is as large. */
const LARGEST = 50e6;

export interface SampleFile {
  readonly name: string;
  readonly table: SampleTable;
}

/** A chosen file of samples: its table, which column is what, and what comes of it or what is wrong with it. */
export function useSampleFile() {
  const { info } = useBenchParts('info');
  const [file, setFile] = useState<SampleFile | null>(null);
  const [mapping, setMapping] = useState<ColumnMapping | null>(null);
  const [firstFrame, setFirstFrame] = useState(0);
  const [failure, setFailure] = useState<string | null>(null);
  const result = useMemo((): { spots: ImportedSpot[] } | { fault: string } | null => {
    if (!file || !mapping) return null;
    try {
      const name = file.name.replace(/\.[^.]*$/, '').slice(0, 50) || 'imported';
      return { spots: samplesFromTable(file.table, mapping, info, firstFrame, name) };
    } catch (error) {
      return { fault: (error as Error).message };
    }
  }, [file, mapping, info, firstFrame]);

  const choose = async (chosen: File | undefined) => {
    if (!chosen) return;
    setFile(null);
    setFailure(null);
    if (chosen.size > LARGEST) {
      const size = Math.round(chosen.size / 1e6);
      setFailure(`${chosen.name} has ${size} MB; files of samples are far smaller. Is it the right one?`);
      return;
    }
    try {
      const table = readSampleTable(await chosen.text());
      setFile({ name: chosen.name, table });
      setMapping(guessMapping(table));
    } catch (error) {
      setFailure((error as Error).message);
    }
  };
  return {
    ...{ file, mapping, setMapping, firstFrame, setFirstFrame, choose },
    spots: result && 'spots' in result ? result.spots : null,
    fault: failure ?? (result && 'fault' in result ? result.fault : null),
  };
}
