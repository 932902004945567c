/**
 * What lanes with memory do with the messages of one key: a pure computation over their times of arrival and event times,
 * so that the same messages give the same results whenever it is done, and however often it was interrupted.
 */
package org.holtra.core.memory;
