/** What is to become of the values of many records at once. */
package deftlens.core.change;
