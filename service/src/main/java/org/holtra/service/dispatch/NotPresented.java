package org.holtra.service.dispatch;

import org.holtra.core.delivery.Verdict;

/** There is no credential to show, with what that means for what was to be sent. */
public final class NotPresented extends Exception {

    private static final long serialVersionUID = 1L;
    private final transient Verdict verdict;

    NotPresented(Verdict verdict) {
        super(verdict.reason());
        this.verdict = verdict;
    }

    public Verdict verdict() {
        return verdict;
    }
}
