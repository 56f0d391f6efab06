import { readFileSync } from 'node:fs';
import { deserialize } from 'node:v8';
const all = deserialize(readFileSync(process.argv[2] ?? '/tmp/fadetracks.bin'));
const rim = 0.07*960;
for (const { name, truth, tracks, W=960, H=540 } of all) {
  const frames = tracks.frames;
  const inside = (at:number)=>{const [x,y]=[tracks.x[at],tracks.y[at]];return x>0.07*W&&y>0.07*W&&x<W-0.07*W&&y<H-0.07*W};
  const line: string[] = [];
  const n = tracks.start.length;
  for (const R of [14, 28, 50]) {
    const gone = new Float64Array(frames), come = new Float64Array(frames), nb_ = new Float64Array(frames), na_ = new Float64Array(frames);
    const deaths: number[][] = [], births: number[][] = [];
    for (let g=R; g<frames-R; g++) {
      let nb=0, ng=0, na=0, nc=0; const d:number[]=[], b:number[]=[];
      for (let k=0;k<n;k++){
        const s=tracks.start[k], e=s+tracks.first[k+1]-tracks.first[k];
        const a0=tracks.first[k]+(g-R-s), a1=tracks.first[k]+(g+R-s);
        if (s<=g-R && e>g-R && inside(a0)) { const over=e<=g+R; if (!over||inside(tracks.first[k+1]-1)) {nb++; if (over) {ng++; d.push(e)}} }
        if (s<=g+R && e>g+R && inside(a1)) { const from=s>g-R; if(!from||inside(tracks.first[k])) {na++; if (from) {nc++; b.push(s)}} }
      }
      gone[g]=nb>=20?ng/nb:0; come[g]=na>=20?nc/na:0; nb_[g]=nb; na_[g]=na; deaths[g]=d.sort((x,y)=>x-y); births[g]=b.sort((x,y)=>x-y);
    }
    let bg=0; for (let g=0;g<frames;g++) if (Math.min(gone[g],come[g])>Math.min(gone[bg],come[bg])) bg=g;
    const runs: string[]=[]; 
    for (let g=R; g<frames-R; g++) if (Math.min(gone[g],come[g])>=0.85) { const from=g; while(g<frames-R-1&&Math.min(gone[g+1],come[g+1])>=0.85) g++; 
      const m=Math.ceil((from+g)/2); const q=(l:number[],p:number)=>l[Math.floor(p*(l.length-1))];
      const c=(h:number)=>h<R||h>=frames-R?'x':(gone[h]+come[h]).toFixed(2);
      runs.push(`${from}-${g}@${m} beside ${c(from-R)},${c(g+R)} d${q(deaths[m],.1)}-${q(deaths[m],.9)} b${q(births[m],.1)}-${q(births[m],.9)}`); }
    line.push(`  R${R}: best ${bg} ${Math.min(gone[bg],come[bg]).toFixed(2)} (${nb_[bg]},${na_[bg]}) | ${runs.join(' ; ')}`);
  }
  console.log(name, 'truth', truth?`${truth.from}-${truth.to}`:'none', 'cuts', [...tracks.cuts].join()); console.log(line.join('\n'));
}
