// A lab session on paper: the card, what is ticked, what is read, worked out, planned, moved, proved and recorded.
#import "house.typ": *

#show: house.with("Lab sheet", footer: foot[#training][#data.rig · session #data.id])

#head(
  data.title, [#data.people.join(", ") · #data.rig · #data.card.machine, #data.card.refrigerant],
  right-side: small[Session #data.id],
)

#framed[
  *Complaint.* #data.card.complaint #if data.card.history != "" [*History.* #data.card.history]
  #for line in data.card.look_round [ #line ]
  #v(1mm)
  #small[*You may touch:* #data.card.touch.join("; "). *#data.card.never*]
]

#let box-tick = box(width: 3.4mm, height: 3.4mm, stroke: .7pt + ink, radius: .5mm, baseline: .5mm)
#let field(q) = grid(
  columns: (1fr, auto, 12mm), column-gutter: 2mm, align: (left, right, left).map(a => a + horizon),
  [#q.text #if q.band != "" [#small[(#q.band)]]],
  if q.kind == "verdict" { pills(("LOW", "NORMAL", "HIGH")) } else if q.kind == "change" {
    pills(("DOWN", "SAME", "UP"))
  } else { blank(width: if q.kind in ("letter", "letters") { 16mm } else if q.kind in ("steps", "text") { 44mm } else { 21mm }) },
  small[#q.unit],
)
#let ticks(phase) = data.ticks.filter(t => t.phase == phase).map(t => grid(
  columns: (5mm, 1fr), row-gutter: 1.4mm, box-tick, t.text,
))
#let asked(phase) = data.questions.filter(q => q.phase == phase)
#let stamp = [#h(1fr) #small[time #box(width: 14mm, stroke: (bottom: .6pt + ink), height: 3mm)]]

#columns(2, gutter: 8mm)[
  #for phase in data.phases {
    let marks = ticks(phase.id)
    let fields = asked(phase.id)
    if phase.id == "card" { continue }
    block(breakable: false, width: 100%)[
      == #phase.name #stamp
      #for one in marks [#one #v(.3mm)]
      #if phase.id == "safety" and data.countersign [#small[Countersigned:] #blank(width: 30mm)]
      #if phase.id == "look" [#v(1mm) #blank(width: 100%, height: 12mm)]
      #for q in fields [#field(q) #v(.6mm)]
      #if phase.id == "plan" [#small[Go ahead (instructor):] #blank(width: 30mm)]
      #if phase.id == "act" [
        #for way in ("In", "Out", "In", "Out") [#small[#way: cylinder] #blank(width: 12mm) #small[before] #blank(width: 15mm) #small[after] #blank(width: 15mm) #v(.6mm)]
      ]
      #if phase.id == "prove" [
        #for p in data.proofs [#grid(columns: (1fr, auto, 12mm), column-gutter: 2mm, align: horizon, [#p.label], blank(), small[#p.unit]) #v(.6mm)]
      ]
      #if phase.id == "record" [#blank(width: 100%, height: 20mm)]
    ]
  }
]

#let choices = data.questions.filter(q => q.choices.len() > 0)
#if choices.len() > 0 [
  #pagebreak(weak: true)
  #for q in choices [
    == #q.text
    #columns(2, gutter: 8mm)[#for c in q.choices [#numbered(c.letter) #h(1.5mm) #c.text #linebreak()]]
  ]
]
