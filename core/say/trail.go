package say

import "regexp"

// Verb is something that can happen to a case or a round.
type Verb string

// Event describes a verb: its sentence, with places in braces that are filled
// from the row's figures, and whether the applicant sees it.
type Event struct {
	Sentence  string
	Applicant bool
}

// Catalogue is every verb of the trail.
var Catalogue = map[Verb]Event{
	"round-made":                  {"made the round from the pattern for grants", false},
	"round-changed":               {"changed the design", false},
	"round-opened":                {"published design {number}", false},
	"signed-for-open":             {"signed for {number} things that the proof could not decide", false},
	"enquired":                    {"asked a question about the round", false},
	"answered-enquiry":            {"answered a question about the round", false},
	"started":                     {"began the application", true},
	"wrote":                       {"wrote in “{section}”", true},
	"put-file":                    {"put a file into “{question}”: {pages}", true},
	"file-refused":                {"put a file into “{question}” that was refused: {fault}", true},
	"removed-file":                {"took a file out of “{question}”", true},
	"named-referee":               {"named {referee} as referee", true},
	"asked-referee":               {"asked {referee} for a letter", true},
	"reminded-referee":            {"reminded {referee}", true},
	"referee-accepted":            {"{referee} said yes", true},
	"referee-declined":            {"{referee} cannot do it", true},
	"referee-uploaded":            {"{referee} put a letter up, but has not sent it", true},
	"paper-put-in":                {"{referee}’s signature on paper was put in", true},
	"late-letter":                 {"{referee} pressed Send {late} after the letter could be taken; it was not", true},
	"referee-sent":                {"{referee} sent the letter", true},
	"referee-confirmed":           {"{referee} confirmed what was asked", true},
	"mail-bounced":                {"the mail to {referee} came back", true},
	"letter-time":                 {"gave {referee} until {until}, because {reason}", true},
	"letter-entered":              {"put in what {referee} sent by post, because {reason}", true},
	"confirmed-on-paper":          {"put in what {referee} confirmed on paper, because {reason}", true},
	"referee-replaced":            {"withdrew the request to {referee}", true},
	"followed":                    {"gave what was to follow: “{question}”", true},
	"promise-lapsed":              {"“{question}” was to follow and did not come", true},
	"sent":                        {"sent the application; seal {seal}", true},
	"fee-due":                     {"charged {amount}; it is in when that is paid", true},
	"fee-waived":                  {"asks no fee, because {reason}", true},
	"fee-asked-again":             {"took back that no fee is asked, because {reason}", true},
	"fee-payer":                   {"asked {whom} to pay the fee", true},
	"fee-begun":                   {"went to the payment desk to pay {amount}", true},
	"fee-paid":                    {"{amount} were paid", true},
	"fee-paid-in":                 {"put in {amount} that came by transfer, {reference}", true},
	"fee-invoiced":                {"asked for an invoice over {amount}, number {number}", true},
	"fee-goes-back":               {"{amount} go back: {why}", true},
	"fee-went-back":               {"{amount} went back", true},
	"fee-not-back":                {"the payment desk did not give {amount} back", false},
	"fee-wished":                  {"proposed about the fee: {what}; a second person must agree", false},
	"fee-wish-ended":              {"did not go on with what was proposed about the fee: {what}", false},
	"fee-back-proposed":           {"proposed to give {amount} back, because {reason}", false},
	"fee-back-agreed":             {"agreed to give {amount} back", false},
	"fee-back-refused":            {"did not agree to give {amount} back", false},
	"fee-time":                    {"gave until {until} to pay, because {reason}", true},
	"take the payment":            {"the fee is settled; it is in", true},
	"let the time to pay run out": {"the fee was not paid in time; it is not in", true},
	"give more time to pay":       {"it can be paid again", true},
	"hand back":                   {"handed {questions} back, to be answered by {due}", true},
	"take the query back":         {"took the query back; it stands as it was sent", true},
	"let the query run out":       {"nobody answered the query in time; it stands as it was sent", true},
	"asked-for-time":              {"asked for more time", true},
	"gave-time":                   {"gave more time, until {until}", true},
	"refused-time":                {"said that no more time can be given", true},
	"wrote-to":                    {"wrote: “{subject}”", true},
	"handed-to":                   {"handed it to {to} to look after", false},
	"nudged":                      {"wrote to {whom} about what is still missing", true},
	"late":                        {"pressed Send {late} after closing; nothing was taken", true},
	"worked-rules":                {"worked through the rules: {yes} met, {person} for a person, {no} not met", false},
	"ruled-connection":            {"ruled on {one} and {other} belonging together; it matters: {matters}", false},
	"ruled-proposal":              {"“{text}”, proposed for a list: {ruling}", true},
	"turn-yes":                    {"{body} has reviewed it, and says yes", true},
	"turn-no":                     {"{body} has reviewed it, and says no; the office looks", false},
	"turn-back":                   {"{body} sent it back", false},
	"reworked-rules":              {"worked the rules anew: {changed}", false},
	"register-changed":            {"the register says otherwise: {says}", false},
	"saw-register":                {"looked at what the register says now: {note}", false},
	"asked-for-support":           {"asked for support", true},
	"gave-support":                {"saw to the support that was asked for", true},
	"list-grew":                   {"took “{item}” into a list, as design {number}", false},
	"ruled-alike":                 {"ruled on a text that is like another’s; it matters: {matters}", false},
	"settled-rule":                {"settled “{rule}”: {outcome}", false},
	"find complete":               {"found it complete", true},
	"find eligible":               {"found it eligible", true},
	"look at the checks again":    {"the checks are looked at again, since a rule or a list has changed", false},
	"find not eligible":           {"found it not eligible", false},
	"hand out for reading":        {"handed it out for reading", true},
	"given-to":                    {"gave it to {reader} to read", false},
	"stepped-aside":               {"stepped aside", false},
	"marks-sent":                  {"sent marks", false},
	"finish reading":              {"reading is finished", true},
	"reopen reading":              {"reading was opened again", false},
	"invite on":                   {"recorded: invited on", false},
	"take up the invitation":      {"took up the invitation to “{stage}”", true},
	"award":                       {"recorded: awarded {amount}", false},
	"put on reserve":              {"recorded: reserve", false},
	"do not award":                {"recorded: not awarded", false},
	"teammate-asked":              {"asked somebody to join as {part}", true},
	"teammate-joined":             {"said yes and joined as {part}", true},
	"teammate-left":               {"left the team", true},
	"handed-over":                 {"handed the lead over", true},
	"withdraw":                    {"withdrew the application", true},
	"revised":                     {"changed what was decided, because {reason}", false},
	"uninvited":                   {"took the invitation to the next stage back", true},
	"letter-queued":               {"made the letter “{letter}”, to go out {due}", false},
	"letter-sent":                 {"the letter “{letter}” went out", true},
	"letters-cancelled":           {"stopped the letter “{letter}” before it went out", false},
	"reader-invited":              {"invited {reader} to read", false},
}

var hole = regexp.MustCompile(`\{[a-z]+\}`)

// Happened fills a verb's sentence.
func Happened(v Verb, figure func(name string) string) string {
	return hole.ReplaceAllStringFunc(Catalogue[v].Sentence, func(m string) string { return figure(m[1 : len(m)-1]) })
}
