"""The pages: routes parse and draw, and never compute.

`app` puts the screens together; each screen is a folder in `screens` with its routes and its templates. What several
screens draw is in `drawing`, what all of them share in `common`, the API in `api`. Begin with `app`, then
`screens.rack`."""
