// Sealed results, to be cut and folded: one slip for each test of each call.
#import "house.typ": *

#show: house.with(
  "Sealed results: " + data.sheet.title, margin: 10mm,
  footer: foot[Cut along the lines, fold so the name shows, seal. Hand out a slip when somebody asks for the test and says what they expect.],
)

#let slip(one) = block(
  width: 100%, height: 62mm, stroke: (paint: ink, thickness: .6pt, dash: "dashed"), inset: (x: 5mm, y: 4mm),
  {
    block(width: 100%, inset: (bottom: 1.6mm), stroke: (bottom: 1.2pt + accent), below: 3mm)[
      *#one.test* \
      #small[#one.name · call #one.call · #one.code]
    ]
    block(width: 100%, stroke: (top: (paint: soft, thickness: .5pt, dash: "dotted")), inset: (top: .8mm), below: 3mm, align(
      center, text(size: 6.5pt, fill: soft)[fold here],
    ))
    one.text
  },
)

#heading(level: 1, outlined: false)[Sealed results: #data.sheet.title]
#grid(columns: (1fr, 1fr), ..data.slips.map(slip))
