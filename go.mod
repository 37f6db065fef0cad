module ulvant

go 1.26

require (
	github.com/bojanz/currency v1.4.2 // indirect
	github.com/cockroachdb/apd/v3 v3.2.1 // indirect
)
