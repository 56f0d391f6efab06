import { Comlink } from './comlink';
import { MapsReader } from './maps';

Comlink.expose(new MapsReader());
