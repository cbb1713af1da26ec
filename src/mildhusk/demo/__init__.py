"""The demo: an invented carnival workshop, its four pieces, nine sheets and a few pours."""
