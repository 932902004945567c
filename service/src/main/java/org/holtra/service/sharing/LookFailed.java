package org.holtra.service.sharing;

/** A look around found nothing out. */
public final class LookFailed extends Exception {

    private static final long serialVersionUID = 1L;
    private final String mend;

    /**
     * @param words why, in words
     * @param mend what to do about it
     */
    public LookFailed(String words, String mend) {
        super(words);
        this.mend = mend;
    }

    public String mend() {
        return mend;
    }
}
