package org.holtra.service.setups;

import org.holtra.core.setup.Setup;

/** A setup has taken effect. */
public record SetupAdopted(Setup before, Setup after) {}
