/** What a nameplate's words are called on every screen. */
export const METERING = {
  txv: 'TXV',
  eev: 'EEV (electronic valve)',
  fixed_orifice: 'fixed orifice (piston)',
  capillary: 'cap tube',
}
export const CONDENSERS = { tube_and_fin: 'tube and fin', microchannel: 'microchannel', water_cooled: 'water-cooled' }
