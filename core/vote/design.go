package vote

import "ulvant/core/form"

// Of is the election that a design describes, on projects of these costs, minor units, in
// the order of the ballot paper.
func Of(v *form.Vote, costs []int64) Election {
	e := Election{
		By:      By(v.Count),
		Most:    v.Most,
		Named:   v.Named,
		Budget:  v.Budget,
		Utility: Utility(v.Utility),
		Rest:    Completion(v.Rest),
	}
	if v.Count == form.CountVotes {
		e.By = MostVotes
	}
	if v.Utility == form.GoodOfOne {
		e.Utility = OneEach
	}
	for _, c := range costs {
		e.Projects = append(e.Projects, Project{Cost: c})
	}
	return e
}
