package demo

import "strings"

// tale is one made-up application: what it says and how far it gets. The
// texts are the demo's own; none is used twice.
type tale struct {
	title, site, district, repair, kind, body, lead string
	describe, afterwards                            string
	ask, cost                                       int64 // euros
	plan                                            string
}

func read(rows string) []tale {
	var out []tale
	for _, line := range strings.Split(strings.TrimSpace(rows), "\n") {
		f := strings.Split(line, "|")
		if len(f) != 12 {
			panic("demo: a row has not twelve parts: " + line)
		}
		out = append(out, tale{f[0], f[1], f[2], f[3], f[4], f[5], f[6], f[7], f[8], whole(f[9]), whole(f[10]), f[11]})
	}
	return out
}

func whole(s string) int64 {
	n := int64(0)
	for _, c := range s {
		n = n*10 + int64(c-'0')
	}
	return n
}

// decidedRows were decided a year ago.
const decidedRows = `
Marram on the Hallin bar|the Hallin bar|hallin|shore|common|Hallin Bar Common|Wenna Astley|Two winters of northerlies took the crest off the bar. We plant 14,000 marram sets behind chestnut paling along 900 metres, and close the four paths that cut it.|The common's herd is already kept off from October to May; two graziers check the paling after every blow.|31000|42000|awarded 4.6
Grip blocking on Carn Tarl|Carn Tarl plateau|tarl|peat|registered|Tarl Moor Society|Dervla Quayle|Sixty-one drains cut in the fifties still empty the plateau. We block them with peat dams every seven metres and re-profile the bare edges.|Volunteers read the dipwells monthly; the readings go on the district's open page.|58000|71000|awarded 4.4
Oyster cultch for Sunder Bay|the inner bay|sunder-bay|shore|registered|Sunder Bay Fishers' Guild|Anselm Pike|Forty tonnes of clean shell laid on the old bed, in three strips of different depth, so that we learn which one the spat chooses.|The guild keeps the ground shut to dredges by its own by-law until 2031.|44000|60500|awarded 4.2
Hay meadow above Ness mill|Mill Holm|brae-ness|grassland|school|Brae Ness School|Tobias Fell|Pupils of three years strip turf in narrow bands and sow yellow rattle and green hay from the churchyard, the last old sward in the parish.|The school mows late each August and has done so for its own field since before anyone can remember.|9000|12400|awarded 4.0
Saltmarsh sill at Corvoe pans|Corvoe salt pans|corvoe|shore|common|Corvoe Crofters' Common|Ottilie Marsh|A low stone sill where the old sluice stood, to hold silt on four hectares of marsh that has been eaten back by a metre a year.|Crofters take turns at the sluice; a photograph is taken from the same post at each spring tide.|52000|66000|awarded 3.9
Hagg reseeding, Blackwater head|Blackwater head|tarl|peat|registered|Blackwater Anglers|Rhodri Kane|Haggs dressed with heather brash cut on the next estate and seeded with nurse grass, to stop peat washing into the spawning gravels.|The anglers' bailiff walks the head of the burn every fortnight.|37500|45000|awarded 3.8
Boulder groynes, Little Hallin|Little Hallin strand|hallin|shore|registered|Little Hallin Harbour Trust|Isaura Dent|Three groynes of local boulder re-laid where the strand has dropped by the height of a man since the pier was built.|The harbour trust owns a digger and pays for a week of its time each spring.|49000|61000|reserve 3.7
Curlew wet grassland at Ferry Park|Ferry Park|corvoe|grassland|common|Ferry Park Graziers|Hamish Oduya|Scrapes and a tilting weir to bring wet patches back to a park drained for barley in the war.|Cattle come on in July only; the graziers signed to that for ten years.|28000|36500|reserve 3.4
Seaweed composting on bare peat|Nether Moss|tarl|peat|group|Nether Moss Neighbours|Pella Strand|A trial: beach-cast weed spread on nine bare plots against nine left alone.|If it takes, the neighbours go on by hand.|11000|13500|not awarded 2.9
Dune boardwalk at Sunder Head|Sunder Head|sunder-bay|shore|registered|Sunder Head Walkers|Casimir Boyle|Two hundred metres of raised boardwalk, so that feet leave the foredune alone.|The walkers' club replaces boards as they go.|62000|74000|not awarded 2.7
Peat core reading room|Tarl village|tarl|peat|school|Tarl College|Ingrid Solberg-Mbeki|A cold store and a light table, where cores taken for restoration are kept and read by sixth forms.|The college technician looks after it.|24000|30000|not awarded 2.4
Sheep fank walls, Over Brae|Over Brae|brae-ness|grassland|common|Over Brae Common|Gethin Moray|Drystone walls of the old fank put up again so that stock can be gathered off the sward before the orchids flower.|Each share of the common owes two days of walling a year.|18500|23000|not awarded 2.2
Grazing plan for nobody's island|Inish Farrow|corvoe|grassland|person|Edda Lunn|Edda Lunn|I would like to write a plan.|I would keep an eye on it.|4000|5000|lapsed`

// panelRows are before the panel now.
const panelRows = `
Tarl peat dams, second phase|the north flank of Carn Tarl|tarl|peat|registered|Tarl Moor Society|Dervla Quayle|The first phase raised the water table by eleven centimetres at forty of forty-eight dipwells. The second carries the same dams down the north flank, where drains are deeper and need timber faces: 210 dams over 38 hectares, with the same reading of wells before and after.|The society has a warden paid until 2031 and a maintenance pot that brings 2,400 euros a year.|78000|96000|read 4.7
Reed beds for the north shore|North Corvoe shore|corvoe|shore|registered|Corvoe Shore Trust|Mairead Sallow|We replant 3.2 hectares of reed along the north shore in two seasons with stock from the Hallin nursery, and rebuild the low brushwood groynes lost in last winter's storms. Volunteers count stems at forty fixed points each September.|Wardens walk the shore monthly and have done so since the flood year.|64000|80000|read 4.5
Hallin dune fencing and marram nursery|the Long Dunes|hallin|shore|school|Hallin High School|Jory Pascoe|A nursery of 6,000 marram plants raised by pupils in old fish boxes, planted out behind chestnut fencing on the 700 metres most walked by visitors.|The nursery belongs to the school garden; each first year plants the set raised by the year before.|41200|52000|read 4.4
Oyster reef trial, second lay|Outer Sunder Bay|sunder-bay|shore|registered|Sunder Bay Fishers' Guild|Anselm Pike|The shell laid two years ago holds spat at ninety to the square metre in the shallow strip and hardly any in the deep one. We lay again, shallow only, with a control strip left bare.|Closed ground by the guild's by-law; divers survey it each June.|57500|72000|read 4.3
Blanket bog above Ness mill|Ness Moss|brae-ness|peat|common|Ness Common|Branwen Iveagh|Seven miles of grips on Ness Moss send brown water through the mill lade after every rain. Plastic-free dams of peat and turf, placed by a machine that weighs less on the ground than a cow.|The common has agreed to halve its ewes on the moss for five years; the agreement is attached to the plan.|69000|83500|read 4.2
Corvoe Common: cattle off the saltings|the East Saltings|corvoe|shore|common|Corvoe Crofters' Common|Ottilie Marsh|Two kilometres of wire with water gates, so that cattle can be held off the saltings from April to July while sea lavender sets.|Crofters mend wire as they always have; the trust that owns the foreshore pays for posts.|38000|47500|read 4.1
Grip blocking at Little Tarl|Little Tarl|tarl|peat|group|Little Tarl Neighbours|Sorrel Achterberg|Neighbours with spades: 140 small dams on ground no machine can reach, over two summers of Saturdays.|We live beside it.|12400|15600|read 3.9
School shore wardens, three districts|strands of Hallin, Corvoe and Tarl|hallin|shore|school|Hallin High School|Nuala Fernsby|Three schools adopt a strand each, measure its profile with poles and string each month, and mend what storms undo: sand ladders, paling, litter, driftwood sills.|The method is a booklet; a teacher in each school has time for it written into the week.|22500|29000|read 3.9
Boardwalk and seed store|Corvoe Links|corvoe|grassland|registered|Corvoe Links Society|Lachlan Thole|A boardwalk over the wet end of the links and a dry store for seed brushed from the old sward, so that the next links need not buy seed from the mainland.|The society's greenkeeper, who is also its botanist.|33000|42000|read 3.7
Ness dunes: signs and paths|Ness dunes|brae-ness|shore|registered|Brae Ness Development Group|Peredur Sands|Fewer, better paths: eleven closed with brash, three surfaced with shell, and signs that say why.|The group's path team of nine goes round every quarter.|26500|33500|read 3.5
Peat core archive, shared|Tarl College|tarl|peat|school|Tarl College|Ingrid Solberg-Mbeki|Cores from all peat works of the isles catalogued, scanned and lent, so that every project can see what its own bog looked like before the drains.|A half-day a week of the college technician, for good.|29000|36000|read 3.2
Machair strip cropping, Farrow|Inish Farrow|corvoe|grassland|common|Farrow Common|Eilidh Brannoch-Okafor|Oats and rye in strips of the old width, cut late and stooked, for corn buntings that have not been heard since the combine came.|Six crofts have signed up to the rotation until 2033.|17800|22400|read 4.0
Sunder Bay eelgrass moorings|the Roads of Sunder Bay|sunder-bay|shore|registered|Sunder Bay Sailing Club|Cosmo Trevanion|Thirty-four chain moorings, each of which scrubs a bare ring in the eelgrass, changed for elastic rodes on screw anchors.|Members pay a levy on each mooring that covers inspection by divers.|46000|58000|reading 3.8
Bracken and bluebells on the brae|the Kirk Brae|brae-ness|grassland|group|Kirk Brae Friends|Agnes Tulloch|Bracken bruised three times a summer by a horse-drawn roller.|Friends of the brae, and the horse.|8400|10500|reading 3.3
Turf banks at Hallin well|the Well Field|hallin|grassland|common|Hallin Bar Common|Wenna Astley|Four turf banks along the contour slow the run-off that has been cutting the well field into gullies, with hawthorn on the crown.|Hedges are laid in rotation by the common's winter party.|14200|18000|reading 3.6
Sea wall gap, Tarl strand|Tarl strand|tarl|shore|registered|Tarl Strand Owners|Quentin Marl|Concrete for a gap of nine metres in the private sea wall.|The owners.|51000|60000|refused
Ponies for the point|Sunder Point|sunder-bay|grassland|person|Maeve Orrin|Maeve Orrin|Three ponies to graze the point.|I would.|6000|7500|lapsed`

// openRows are in the round that is open now.
const openRows = `
Reed beds for the Corvoe shore|the Corvoe shore|corvoe|shore|common|Corvoe Foreshore Common|Imre Calloway|We will replant 3.2 hectares of reed bed along the Corvoe shore in two seasons, using stock from the Hallin nursery, and rebuild the low brushwood groynes lost in the storms of last winter. Volunteers trained by the Common will survey stem density at forty fixed points each September, and the record will be published.|The Common's wardens walk the shore monthly and have done so since the flood year.|64000|80000|draft half
Shingle bank at Cotter’s Lea|Cotter’s Lea|hallin|shore|registered|Cotter’s Lea Residents|Philippa Ruane|The bank that keeps spring tides out of nineteen gardens has thinned to the width of a cart. We bring back the shingle it lost from the spit where it went, at neaps, by tractor.|Residents have a rota and a level staff.|27500|36000|draft uploaded
Flow country in miniature|Pool Moss|tarl|peat|registered|Pool Moss Trust|Søren Haldane|Pool Moss has ninety-three pools and loses one a year. Low bunds of turf on its southern lip should hold the rest; we have tried it on two pools with our own money and both held through a dry spring.|The trust owns the moss and employs a keeper.|71500|88000|draft asked
Whin and wildflowers, Barra Knowe|Barra Knowe|brae-ness|grassland|group|Barra Knowe Friends|Catrin Bewley|Whin cut in thirds over three winters.|Friends, on first Sundays.|6200|8100|draft begun
Lagoon sluice, Strand of Ness|Ness lagoon|brae-ness|shore|registered|Ness Lagoon Trust|Fergus Ó Dálaigh|A tilting sluice in oak to let the lagoon breathe with the tide again. It was shut for wildfowling in 1911 and has been growing stale ever since; the survey shows what came back in the month it was left open by mistake.|The trust's boatman has agreed to turn it, by the tide table on his wall.|56000|70500|draft pages
Peat pipes under the Kirk road|Kirk Moss|tarl|peat|common|Kirk Moss Common|Una Gallowglass|The road over Kirk Moss sinks where the peat beneath it is piped. We find the pipes by radar and stop them with clay, before tarmac is laid again on nothing.|The district walks the road twice a year.|43000|54500|draft accepted
Corncrake corners|the Parks of Hallin|hallin|grassland|common|Hallin Parks Common|Donal Ferrier|Early cover of iris and nettle in the corners of thirty-one hay parks, and mowing from the middle outwards.|Each of the eleven crofters signs for their own corners.|19800|25400|draft declined
Sand ladders at Sunder|Sunder west beach|sunder-bay|shore|school|Sunder Bay Primary|Beatrix Oyelaran|Five sand ladders and a lot of children.|The school, with its own hammers.|3900|5000|draft ready
Heather brash on Carn Beg|Carn Beg|tarl|peat|registered|Carn Beg Estate Trust|Alasdair Frome|Bare peat on the summit, four hectares of it, spread with brash cut by our own keepers from the firebreaks. Geojute on the steep faces, where brash alone slid off in the trial.|The keepers cross the top every week in season.|34500|43500|eligible
Saltmarsh hay for the ferry field|Ferry field|corvoe|grassland|common|Ferry Field Graziers|Rosalind Aird|Green hay from the last good saltmarsh, spread on a field that was ploughed to the wall in 1974.|Grazing let year by year with dates written in.|15400|19800|eligible
Driftwood sills at Mew Sound|Mew Sound|sunder-bay|shore|group|Mew Sound Beachcombers|Ferdia Blount|Sills of driftwood, pinned with oak, along the foot of the low cliff. It costs almost nothing and has worked on the next strand for six years, as the photographs show.|The same people who pick up the driftwood.|7200|9100|eligible
Otter holts, burn of Tarl|the burn of Tarl|tarl|grassland|registered|Blackwater Anglers|Rhodri Kane|Alder and willow back on 1,400 metres of bank, fenced from stock, with four stone holts where the old roots went.|The bailiff, and the otters.|23600|29500|eligible
Terraces for the school croft|Brae Ness croft|brae-ness|grassland|school|Brae Ness School|Tobias Fell|Old lazybeds dug out and planted again, three with oats, three with potatoes, three left, to see what flowers.|The croft is part of the timetable.|5600|7400|eligible
Cockle strand recovery|Traigh Mor|corvoe|shore|registered|Traigh Mor Gatherers|Ismene Corcoran|Hand-raking stopped on a third of the strand each year in turn, posts to mark it, and a survey by the gatherers themselves: two hundred quadrats, each spring and each autumn.|A rota drawn up and signed at the last meeting of the gatherers.|18900|24000|eligible
Moss seeding by hand, Wester Bog|Wester Bog|hallin|peat|registered|Wester Bog Company|Leopold Struan|Sphagnum raised under mesh in the old tomato house and planted as plugs, twelve to the square metre, in 400 plots.|The company's shareholders hold a work day every second month.|39700|50000|eligible
Stone dyke round the lek|Blackcock Moor|tarl|grassland|common|Tarl West Common|Morna Hesketh|A dyke round eleven hectares to keep sheep out of the blaeberry while young grouse need it; gaps stay for hares.|Dykers among the shareholders.|30800|39000|eligible
Foreshore rights unclear, Port Ailsa|Port Ailsa|sunder-bay|shore|registered|Port Ailsa Pier Company|Gwendal Morrice|Rubble from the fallen pier sorted by hand: sound stone into a breakwater, rotten stone into a reef of small cracks for lobster.|The pier company, as long as there is one.|47300|59500|person
Commons wall at Over Hallin|Over Hallin|hallin|grassland|common|Over Hallin Common|Sigrun Palethorpe|The march wall between two commons has lain down along 300 metres, and sheep of both have eaten the orchid bank between them.|Both commons, turn about.|16700|21000|person
Eider islands|the Skerries of Mew|sunder-bay|shore|group|Eider Watch|Thaddeus Rook|Rat-proof boxes of driftwood on three skerries, and a season of night watches.|The watch has eleven members with boats.|9800|12300|person
Private lawn to meadow|Hallin House|hallin|grassland|registered|Hallin House Company|Aurelian Voss|Two hectares of lawn, scarified and sown.|The gardeners.|21000|26500|refused
Peat road to the cuttings|Cutters' Moss|tarl|peat|common|Cutters' Moss Common|Effie Drummond|A road of brash and branches, so that the last cutters do not churn the flood-plain bog with tractors.|Cutters lay more as it sinks.|13900|17600|withdrawn
Limpet walls of Ness|Ness harbour|brae-ness|shore|registered|Ness Harbour Board|Kester Lomax|Rough textured panels on the smooth new harbour wall.|The board inspects its walls at each survey.|25200|32000|draft most
Sill at the Lamp pans|the Lamp pans|corvoe|shore|group|Lamp Pans Neighbours|Perrin Holloway|A low stone sill where the old sluice stood, to hold silt on four hectares of marsh that has been eaten back by a metre a year. Ours is the next inlet east.|We are there at every tide.|18000|23000|eligible
Twin dams at Loch Gorm|Loch Gorm|tarl|peat|common|Gorm Common|Niamh Ballantyne|Two leaking dams of 1890.|The common's water bailiff.|48800|61000|draft some
Beach nourishment by barrow|Little Strand|corvoe|shore|group|Little Strand Swimmers|Olwen Petrie|Sand goes west in winter and we bring it back in spring.|Swimmers are there every morning.|2400|3100|draft uploaded
Twite seed plots|the Glebe|brae-ness|grassland|registered|Ness Glebe Trust|Barnaby Osei|Half-hectare plots of dandelion and sorrel left to seed.|The glebe tenant has it in his lease.|8700|11200|draft asked
Kelp wrack for the dunes|North Links|hallin|shore|school|Hallin High School|Jory Pascoe|Leave the wrack line where it falls, on one kilometre, and see whether embryo dunes form.|A sixth-form study each year.|4300|5600|draft some
Old drove, new heather|the Drove of Tarl|tarl|peat|registered|Drove Keepers|Magnus Yell|The drove is forty metres wide in places, all of it mud.|Keepers walk it with ponies in May.|36400|46000|draft begun
Winkle beds, Port of Corvoe|Port of Corvoe|corvoe|shore|registered|Corvoe Port Users|Delphine Aske|Boulders set back.|Port users.|12100|15500|draft begun
Cliff-top fence, the Heads|the Heads|sunder-bay|grassland|common|Heads Common|Ruaridh Snell|A fence set forty metres back, and the clover let go.|The common's shepherd.|20600|26000|draft accepted
A quarter mile of hurdles|Long Lea|hallin|shore|registered|Cotter’s Lea Residents|Philippa Ruane|Hazel hurdles across the blow-outs.|As for the bank.|5100|6700|draft begun`
