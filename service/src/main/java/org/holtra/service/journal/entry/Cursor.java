package org.holtra.service.journal.entry;

/**
 * How far an inlet has read what it reads page by page, moved in the transaction of the messages it stands for. It moves only
 * from where it was read: two nodes that read the same page cannot both keep it.
 *
 * @param before where it stood when the page was read; empty before the first
 * @param after where it stands once the page is kept, in the words of the inlet's kind
 */
public record Cursor(String inlet, String before, String after) {}
