import { readFileSync } from 'node:fs';
import { deserialize } from 'node:v8';
import { fadesIn } from '@lurn/core';
const all = deserialize(readFileSync('/tmp/fadetracks.bin'));
for (const { name, truth, tracks } of all) {
  const size = { width: 960, height: 540 };
  const f0 = fadesIn(tracks, size);
  const frames = tracks.frames;
  const rim = 0.07*960;
  const inside = (at:number)=>{const [x,y]=[tracks.x[at],tracks.y[at]];return x>rim&&y>rim&&x<960-rim&&y<540-rim};
  // For reach R: best frame with min(gone, come) ; printing
  const line: string[] = [];
  for (const R of [14, 28, 50]) {
    let best = [0,0,0,0];
    for (let g=R; g<frames-R; g++) {
      let nb=0, ng=0, na=0, nc=0;
      for (let k=0;k<tracks.start.length;k++){
        const s=tracks.start[k], e=s+tracks.first[k+1]-tracks.first[k];
        if (s<=g-R && e>g-R) { nb++; if (e<=g+R) { if (inside(tracks.first[k+1]-1)) ng++; } }
        if (s<=g+R && e>g+R) { na++; if (s>g-R && inside(tracks.first[k])) nc++; }
      }
      const v=Math.min(nb?ng/nb:0, na?nc/na:0);
      if (v>best[1]) best=[g,v,nb,na];
    }
    line.push(`R${R}: ${best[0]} ${best[1].toFixed(2)} (${best[2]},${best[3]})`);
  }
  console.log(name.padEnd(34), 'cuts', [...tracks.cuts].join(), 'now', f0.map(f=>`${f.from}-${f.to}@${f.at}`).join(' ')||'-', '|', line.join('  '));
}
