import fc from 'fast-check'

/** Where a property test says how long things get, they get that long; left to itself the package stays near ten. */
fc.configureGlobal({ defaultSizeToMaxWhenMaxSpecified: true })
