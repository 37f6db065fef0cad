module planted

go 1.26
