"""The web application: factory, access, errors, headers, base templates, parts."""
