declare module 'virtual:palette.css';
