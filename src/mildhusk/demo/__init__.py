"""The demo: an invented carnival workshop, its three pieces, six sheets and a few pours."""
