// Before tests that start a server: what its threads run, which they load in a quarter of the time when it is built.
import { buildServer } from './build.mjs';

export default function setup() {
  if (!buildServer()) throw new Error('The server could not be built; the messages above say why.');
}
