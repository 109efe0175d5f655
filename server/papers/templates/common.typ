#let d = json(bytes(sys.inputs.data))
#let ink = rgb("#1d1a16")
#let copper = rgb("#9c4512")
#let soft = rgb("#5b544a")
#let set-page(body) = {
  set page(
    paper: d.size, margin: (x: 18mm, top: 16mm, bottom: 16mm),
    footer: context [#set text(8pt, fill: soft); Dianoia · job #d.number · #d.date #h(1fr) #counter(page).display("1 / 1", both: true)],
  )
  set text(font: "Libertinus Serif", size: 10.5pt, fill: ink)
  set par(leading: 0.55em)
  show heading.where(level: 1): it => text(19pt, weight: "bold", it.body)
  show heading.where(level: 2): it => block(above: 1.1em, below: 0.5em, text(12pt, weight: "bold", fill: copper, it.body))
  body
}
#let head = {
  grid(columns: (1fr, auto), align: (left, right),
    [#if d.mark != "" [#image(d.mark, height: 14mm, fit: "contain") ]
     #if d.workshop != "" [#strong(d.workshop) \ ]],
    [#d.date])
  line(length: 100%, stroke: 0.6pt + copper)
  if d.at("simulated", default: "") != "" [#text(weight: "bold", fill: copper)[#d.simulated] #v(0.4em)]
}
#let whose = {
  let parts = (d.vehicle, d.plate, d.customer).filter(x => x != "")
  parts.join(" · ")
}
#let picture(width) = align(center, image(bytes(sys.inputs.drawing), format: "svg", width: width))
