import { setBench } from '../../../state/bench';
import { carryOnAt } from '../../../state/repairs';
import { common } from './mark';
import { Tool, type Drag, type Press } from './tool';

/** Chooses the other feature with which a path carries on; the magnifier shows it while the pointer is down. */
export class CarryOnTool extends Tool {
  constructor(private readonly spot: string) {
    super();
  }

  hint(): string {
    return 'Press on another feature of the same thing: the path goes on from it. Esc ends.';
  }

  protected press(press: Press): Drag {
    const first = common(press);
    if (first) return first;
    let place = press.at.picture;
    const show = () => setBench({ magnifier: { ...place, spot: this.spot } });
    show();
    return {
      move({ picture }) {
        place = picture;
        show();
      },
      up: () => {
        setBench({ magnifier: null });
        carryOnAt(this.spot, place);
      },
      cancel: () => setBench({ magnifier: null }),
    };
  }
}
