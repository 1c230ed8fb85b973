"""Work behind the page: anything longer than a second, in processes of its own, with progress, a first result early, cancel."""
