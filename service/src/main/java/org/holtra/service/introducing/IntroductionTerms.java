package org.holtra.service.introducing;

import java.util.List;

/**
 * What a job on introductions is to be done to.
 *
 * @param keys of the devices, in order
 */
record IntroductionTerms(String outlet, List<String> keys) {}
