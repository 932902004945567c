package org.holtra.service.incidents;

import java.util.List;

/**
 * What is to be done about an incident.
 *
 * @param read what could not be read is read again, and goes where lanes want it
 * @param retry what is dead is tried again
 * @param take what no lane took goes where lanes want it now
 * @param wrong what was delivered under these revisions of the setup is delivered again, corrected
 */
public record Acts(Boolean read, Boolean retry, Boolean take, List<Integer> wrong) {

    public Acts {
        read = Boolean.TRUE.equals(read);
        retry = Boolean.TRUE.equals(retry);
        take = Boolean.TRUE.equals(take);
        wrong = wrong == null ? List.of() : List.copyOf(wrong);
    }

    public boolean areAny() {
        return read || retry || take || !wrong.isEmpty();
    }
}
