/** The server does not answer at all. */
export class ServerAway extends Error {
  constructor() {
    super('The Tile Tug server does not answer. Start it again with npm start; this page then continues by itself.')
  }
}
