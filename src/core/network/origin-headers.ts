/** Set on a 404 when the origin has no session of that name any more, so that a client knows to open another. */
export const sessionLostHeader = 'Tile-Tug-Session'
export const sessionLost = 'lost'
